import type { Money } from '../money';

/** What needs approval by a lead who did not ask for it. */
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
  /** Whether they may approve at all. */
  readonly decides: boolean;
  /** Whether it is Laager itself, by a rule that somebody gave it. */
  readonly byItself: boolean;
  readonly heldBy: string | undefined;
  /** Who invited them less than thirty days ago: of that one's they approve nothing. */
  readonly invitedBy?: string | undefined;
}

/** So long a new lead approves nothing of who invited them, and so far back is added up what one person began. */
export const APPROVAL_DAYS = 30;

/**
 * Whether whoever asks needs another's word, where the rule asks for one at all. A lead says yes by beginning what somebody
 * else held; what Laager does by itself follows a rule that somebody gave it, and asks nobody.
 * @example
 * asksAnother({ ...NO_APPROVAL, leadsToo: true }, { id: 'a', decides: true, byItself: false, heldBy: 'a' }) // true
 */
export function asksAnother(
  { leadsToo }: ApprovalRule,
  { id, decides, byItself, heldBy, invitedBy }: Asking,
): boolean {
  if (byItself) return false;
  if (!decides) return true;
  return leadsToo && (heldBy === undefined || heldBy === id || heldBy === invitedBy);
}

/**
 * Whether a rule asks for less than the one before: then another lead agrees first, where leads need another's approval.
 * @example
 * isLooser({ ...NO_APPROVAL, kinds: ['retire'] }, NO_APPROVAL) // true
 */
export function isLooser(before: ApprovalRule, after: ApprovalRule): boolean {
  if (before.leadsToo && !after.leadsToo) return true;
  if (before.kinds.some((kind) => !after.kinds.includes(kind))) return true;
  return before.above.some(({ minor, currency }) => {
    const now = after.above.find((one) => one.currency === currency);
    return !now || now.minor > minor;
  });
}

/** What of a change needs another's word. */
export type Reason = { readonly why: 'kind' } | { readonly why: 'cost'; readonly above: Money };

/**
 * Why a change needs another's word; undefined: it does not.
 * @param kinds its own, and that which it does a part of
 * @param monthly by how much it changes what a month costs
 * @param begun by how much those changes did, in minor units of the same currency, that the same person began for the same
 *   customer without approval within `APPROVAL_DAYS`: three small changes need what one large change needs
 * @example
 * wordNeeded({ ...NO_APPROVAL, kinds: ['retire'] }, ['retire'], nothing('EUR')) // { why: 'kind' }
 */
export function wordNeeded(
  rule: ApprovalRule,
  kinds: readonly string[],
  monthly: Money,
  begun = 0,
): Reason | undefined {
  if (kinds.some((kind) => rule.kinds.includes(kind))) return { why: 'kind' };
  const above = rule.above.find(({ currency }) => currency === monthly.currency);
  return above && monthly.minor > 0 && monthly.minor + Math.max(0, begun) > above.minor
    ? { why: 'cost', above }
    : undefined;
}
