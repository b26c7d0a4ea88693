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

/** What will come of the choices. */
export interface Plan {
  readonly turn: number;
  readonly proposal: Proposal;
  readonly pools: readonly SizedPool[];
}

/** The planner as this page asks it: on the server for what is shown at first, in a worker of its own from then on. */
export const planFor = ({ turn, input, facts }: Question): Plan => ({
  turn,
  proposal: propose(RESOURCE_KINDS, provision, input, facts),
  pools: sizePools(input, facts),
});
