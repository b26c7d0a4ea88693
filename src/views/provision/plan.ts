import { provision, sizePools, type ProvisionInput, type SizedPool } from '../../core/changes';
import type { Facts } from '../../core/facts';
import { propose, type Proposal } from '../../core/planning';
import { RESOURCE_KINDS } from '../../core/resources';

/** What is asked of the planner. */
export interface Question {
  /** Tells one question from the next; its answer bears the same. */
  readonly turn: number;
  readonly input: ProvisionInput;
  readonly facts: Facts;
}

/** What of a proposal is shown here: data alone, which goes from the server to the page and from its worker to it. */
export type Outlook = Pick<
  Proposal,
  'checks' | 'impact' | 'wanted' | 'room' | 'seconds' | 'cost' | 'monthly'
> & {
  readonly steps: number;
};

/** What will come of the choices. */
export interface Plan {
  readonly turn: number;
  /** What it is for, which may be what was asked a moment ago. */
  readonly input: ProvisionInput;
  readonly outlook: Outlook;
  readonly pools: readonly SizedPool[];
}

/** The planner as this page asks it: on the server for what is shown at first, in a worker of its own from then on. */
export function planFor({ turn, input, facts }: Question): Plan {
  const proposal = propose(RESOURCE_KINDS, provision, input, facts);
  const { checks, impact, wanted, room, seconds, cost, monthly, steps } = proposal;
  return {
    turn,
    input,
    outlook: { checks, impact, wanted, room, seconds, cost, monthly, steps: steps.length },
    pools: sizePools(input, facts),
  };
}
