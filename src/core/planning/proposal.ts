import type { HostFacts } from '../facts';
import type { Intent } from '../intent';
import { sum, type Money } from '../money';
import { NO_OVERRIDE_EDIT, type OverrideEdit } from '../overrides';
import type { CostLine } from '../rating';
import type { Policy, Wanted } from '../resources';
import type { Change, Refusal } from './change';
import { blocks, type Check } from './check';
import type { ProposedStep } from './graph';
import type { Impact } from './impact';
import type { PlannedTask } from './tasks';

/** What a change would do, with every check before it. */
export interface Proposal {
  readonly kind: string;
  readonly title: string;
  /** What of the input cannot be used, beside its fields; undefined when all can. */
  readonly refused: Refusal | undefined;
  /** What shall be wanted; null: nothing any more. */
  readonly intent: Intent | null;
  /** What is set by hand with it, or set no longer. */
  readonly overrides: OverrideEdit;
  readonly wanted: readonly Wanted[];
  readonly tasks: readonly PlannedTask[];
  readonly steps: readonly (ProposedStep & { readonly tail: number })[];
  readonly policy: Policy;
  readonly seconds: number;
  readonly critical: readonly string[];
  /** By how much each cost of a month changes; less is negative. */
  readonly cost: readonly CostLine[];
  readonly monthly: Money;
  /** Whose data would be destroyed: then the customer's code is typed. */
  readonly destroyed: readonly string[];
  readonly checks: readonly Check[];
  readonly impact: Impact;
  /** Hosts that the subnets allocated here have room for. */
  readonly room: number;
}

const IDLE: Policy = { atATime: 1, failureLimit: 1 };

/** A proposal whose input cannot be used. */
export function refused(
  change: Change,
  facts: Pick<HostFacts, 'customer' | 'environment'>,
  problem: Refusal,
): Proposal {
  const { currency } = facts.customer;
  const monthly = sum([], currency);
  return {
    kind: change.kind,
    title: change.verb,
    refused: problem,
    intent: facts.environment?.intent ?? null,
    overrides: NO_OVERRIDE_EDIT,
    wanted: [],
    tasks: [],
    steps: [],
    policy: IDLE,
    seconds: 0,
    critical: [],
    cost: [],
    monthly,
    destroyed: [],
    checks: Object.entries(problem).map(([field, says]) => blocks(`field ${field}`, change.verb, says, '')),
    impact: { people: 0, hosts: 0, monthly, seconds: 0, undo: 'can be undone' },
    room: 0,
  };
}
