import { provision, sizePools } from '../../core/changes';
import type { Facts } from '../../core/facts';
import { propose, timelineOf } from '../../core/planning';
import { RESOURCE_KINDS } from '../../core/resources';
import { firstChoice, inputOf, type Plan, type ProvisionProps, type Question } from './facts';

/** The planner as this page asks it: on the server for what is shown at first, in a worker of its own from then on. */
export function planFor({ turn, input, facts }: Question): Plan {
  const proposal = propose(RESOURCE_KINDS, provision, input, facts);
  const { checks, impact, wanted, room, seconds, cost, monthly, steps, policy } = proposal;
  const { lanes } = timelineOf(steps, policy.atATime);
  return {
    turn,
    input,
    outlook: { checks, impact, wanted, room, seconds, cost, monthly, steps: steps.length, lanes },
    pools: sizePools(input, facts),
  };
}

/** The plan for what is chosen at first. */
export const firstPlan = (customer: ProvisionProps['customer'], facts: Facts): Plan =>
  planFor({ turn: 0, input: inputOf(firstChoice(customer, facts), facts), facts });
