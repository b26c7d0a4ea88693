import type { ApprovalState } from '../../contract';
import { isLooser, NO_APPROVAL, type ApprovalRule } from '../../core/approval';
import type { Scope } from '../access';
import { sql, type Connection } from '../db';
import { Problem } from '../problem';
import { invitedLately } from '../operators';
import { dropSetting, keepSetting, lockSetting, setting } from '../settings';
import { write, type WriteHouse } from '../write';

const NAME = 'approval';

/** SQL: what needs approval, for a statement that reads more. Read it with `readApproval`. */
export const approvalJson = sql`(SELECT s.value FROM setting s WHERE s.name = ${NAME})`;

export const readApproval = (value: string | null): ApprovalRule =>
  value === null ? NO_APPROVAL : (JSON.parse(value) as ApprovalRule);

/** What needs approval by a lead who did not ask for it. */
export async function approvalRule(db: Connection): Promise<ApprovalRule> {
  const row = await db.row<{ value: string | null }>(sql`SELECT ${approvalJson} AS value`);
  return readApproval(row?.value ?? null);
}

const PROPOSED = 'approval proposed';

interface Proposed {
  readonly rule: ApprovalRule;
  readonly by: string;
  readonly byName: string;
}

async function proposedRule(db: Connection): Promise<Proposed | undefined> {
  const value = await setting(db, PROPOSED);
  return value === undefined ? undefined : (JSON.parse(value) as Proposed);
}

/** The rule, and what a lead has proposed instead. */
export async function approvalState(db: Connection, { actor }: Scope): Promise<ApprovalState> {
  const [rule, proposed] = [await approvalRule(db), await proposedRule(db)];
  return {
    rule,
    proposed: proposed ? { rule: proposed.rule, by: proposed.byName, mine: proposed.by === actor.id } : null,
  };
}

/**
 * Changes what needs another lead's approval. Where leads need it too, a rule that asks for less is only proposed; it holds
 * once another lead sends the same.
 * @param kinds the changes that there are
 * @throws Problem 422
 */
export const keepApprovalRule = (
  house: WriteHouse,
  scope: Scope,
  rule: ApprovalRule,
  kinds: readonly string[],
): Promise<void> =>
  write(house, scope, [], async (tx) => {
    const unknown = rule.kinds.findIndex((kind) => !kinds.includes(kind));
    if (unknown >= 0)
      throw new Problem(422, 'invalid', 'Some of what was sent cannot be used.', {
        fields: { [`kinds.${unknown}`]: 'is no change' },
      });
    // Written first: two leads at once come one after the other.
    await lockSetting(tx, `${NAME} lock`);
    const before = await approvalRule(tx);
    const proposed = await proposedRule(tx);
    const isAgreed =
      proposed && isSame(proposed.rule, rule) && (await mayAgree(tx, scope, proposed.by, house));
    const told = { subject: 'changes', before, after: rule, topic: 'ground', id: NAME } as const;
    if (before.leadsToo && isLooser(before, rule) && !isAgreed) {
      const asked: Proposed = { rule, by: scope.actor.id, byName: scope.actor.name };
      await keepSetting(tx, PROPOSED, JSON.stringify(asked));
      return tx.record({ action: 'propose looser approval rule', ...told });
    }
    await dropSetting(tx, PROPOSED);
    await keepSetting(tx, NAME, JSON.stringify(rule));
    await tx.record({ action: 'change approval rule', ...told });
  });

const isSame = (a: ApprovalRule, b: ApprovalRule): boolean => !isLooser(a, b) && !isLooser(b, a);

/** Whether a lead may agree to what another proposed: not to their own, and at first not to that of who invited them. */
async function mayAgree(tx: Connection, { actor }: Scope, by: string, house: WriteHouse): Promise<boolean> {
  return by !== actor.id && by !== (await invitedLately(tx, actor.id, house.clock.wall()));
}
