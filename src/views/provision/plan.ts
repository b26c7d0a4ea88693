import { provision, sizePools } from '../../core/changes';
import type { Facts } from '../../core/facts';
import { propose, timelineOf } from '../../core/planning';
import { RESOURCE_KINDS } from '../../core/resources';
import { TERM_KEYS, TERMS } from '../../core/terms';
import { firstChoice, inputOf, type Plan, type ProvisionProps, type Question } from './facts';

/** The planner as this page asks it: on the server for what is shown at first, in a worker of its own from then on. */
export function planFor({ turn, input, facts }: Question): Plan {
  const proposal = propose(RESOURCE_KINDS, provision, input, facts);
  const { checks, impact, wanted, room, seconds, cost, monthly, steps, policy } = proposal;
  const { lanes } = timelineOf(steps, policy.atATime);
  return {
    turn,
    input,
    outlook: {
      checks: checks.map((check) => ({ ...check, title: fieldOf(check.key, input) ?? check.title })),
      impact,
      wanted,
      room,
      seconds,
      cost,
      monthly,
      steps: steps.length,
      lanes,
    },
    pools: sizePools(input, facts),
  };
}

/** `Disk of desks`: the field of a pool that cannot be used, as the form calls it; undefined: it is none of a pool's. */
function fieldOf(key: string, { pools = [] }: Question['input']): string | undefined {
  const [, at = '', name] = /^field pools\.(\d+)\.(\w+)$/.exec(key) ?? [];
  const term = TERM_KEYS.find((one) => one === name);
  const pool = pools[Number(at)];
  return term && pool && `${TERMS[term].title} of ${pool.role}`;
}

/** The plan for what is chosen at first. */
export const firstPlan = (customer: ProvisionProps['customer'], facts: Facts): Plan =>
  planFor({ turn: 0, input: inputOf(firstChoice(customer, facts), facts), facts });
