import { NO_APPROVAL, type ApprovalRule } from '../../core/approval';
import type { Scope } from '../access';
import type { Connection } from '../db';
import { Problem } from '../problem';
import { write, type WriteHouse } from '../write';

const NAME = 'approval';

/** What needs the word of a lead who did not ask for it. */
export async function approvalRule(db: Connection): Promise<ApprovalRule> {
  const row = await db.row<{ value: string }>('SELECT value FROM setting WHERE name = ?', [NAME]);
  return row ? (JSON.parse(row.value) as ApprovalRule) : NO_APPROVAL;
}

/**
 * Says anew what needs another's word: it concerns every customer, so it is said by who reaches them all.
 * @param kinds the changes that there are
 * @throws Problem 403, 422
 */
export const keepApprovalRule = (
  house: WriteHouse,
  scope: Scope,
  rule: ApprovalRule,
  kinds: readonly string[],
): Promise<void> =>
  write(house, scope, [], async (tx) => {
    if (scope.customers) throw new Problem(403, 'reach', 'This needs a lead who reaches every customer.');
    const unknown = rule.kinds.findIndex((kind) => !kinds.includes(kind));
    if (unknown >= 0)
      throw new Problem(422, 'invalid', 'Some of what was sent cannot be used.', {
        fields: { [`kinds.${unknown}`]: 'is no change' },
      });
    const before = await approvalRule(tx);
    await tx.write(
      'INSERT INTO setting (name, value) VALUES (?, ?) ON DUPLICATE KEY UPDATE value = VALUES(value)',
      [NAME, JSON.stringify(rule)],
    );
    await tx.record({
      action: 'say what needs another’s word',
      subject: 'changes',
      before,
      after: rule,
      topic: 'ground',
      id: NAME,
    });
  });
