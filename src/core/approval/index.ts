import type { Money } from '../money';

/** What needs the word of a lead who did not ask for it. */
export interface ApprovalRule {
  /** What costs more a month than one of these does, in its currency; one a currency. */
  readonly above: readonly Money[];
  /** Kinds of changes that always do. */
  readonly kinds: readonly string[];
  /** Whether what a lead asks for needs it too. */
  readonly leadsToo: boolean;
}

/** Nothing needs it. */
export const NO_APPROVAL: ApprovalRule = { above: [], kinds: [], leadsToo: false };

/** Who asks for a change, and who held it before them; undefined: nobody did. */
export interface Asking {
  readonly id: string;
  readonly role: string;
  readonly heldBy: string | undefined;
}

/**
 * Whether whoever asks needs another's word, where the rule asks for one at all. A lead says yes by beginning what somebody
 * else held; what Laager does by itself follows a rule that somebody gave it, and asks nobody.
 * @example
 * asksAnother({ ...NO_APPROVAL, leadsToo: true }, { id: 'a', role: 'lead', heldBy: 'a' }) // true
 */
export function asksAnother({ leadsToo }: ApprovalRule, { id, role, heldBy }: Asking): boolean {
  if (role === 'system') return false;
  if (role !== 'lead') return true;
  return leadsToo && (heldBy === undefined || heldBy === id);
}

/** What of a change needs another's word. */
export type Reason = { readonly why: 'kind' } | { readonly why: 'cost'; readonly above: Money };

/**
 * Why a change needs another's word; undefined: it does not.
 * @param monthly by how much it changes what a month costs
 * @example
 * wordNeeded({ ...NO_APPROVAL, kinds: ['retire'] }, 'retire', nothing('EUR')) // { why: 'kind' }
 */
export function wordNeeded(rule: ApprovalRule, kind: string, monthly: Money): Reason | undefined {
  if (rule.kinds.includes(kind)) return { why: 'kind' };
  const above = rule.above.find(({ currency }) => currency === monthly.currency);
  return above && monthly.minor > above.minor ? { why: 'cost', above } : undefined;
}
