import type { NewAllowance } from '../../contract';
import { LIMIT_WORDS, mostOf, type Limit } from '../../core/plans';
import type { CustomerScope } from '../access';
import { newId, type Connection, type Lock } from '../db';
import { conflict, notFound, unusable } from '../problem';
import { write, type Tx, type WriteHouse } from '../write';
import { factsOf, heldBy } from './held';

/** What is decided by what a customer takes together is decided under its lock. */
export const lockOf = ({ customer }: CustomerScope): Lock => ({
  table: 'customer',
  key: { id: customer.id },
});

/** Raises a limit for a customer until an instant. @throws Problem 422 beside the field that cannot be used */
export const allowMore = (
  house: WriteHouse,
  scope: CustomerScope,
  allowance: NewAllowance,
): Promise<{ id: string }> =>
  write(house, scope, [lockOf(scope)], async (tx) => {
    const now = house.clock.now();
    const { held, allowances } = await heldBy(tx, scope, now);
    const most = mostOf(factsOf(held, allowances), allowance.limit, now);
    if (most === null) throw unusable('limit', `plan ${held.name} has no limit there`);
    if (allowance.most <= most) throw unusable('most', `${most} are allowed already`);
    return allow(tx, scope, now, allowance);
  });

/** Raises a limit, in a transaction that holds the customer. @throws Problem 422 beside `until` */
export async function allow(
  tx: Tx,
  { actor, customer }: CustomerScope,
  now: number,
  { limit, most, until, reason }: { limit: Limit; most: number; until: number; reason: string },
): Promise<{ id: string }> {
  if (until <= now) throw unusable('until', 'has to be later than now');
  const id = newId();
  await tx.write(
    `INSERT INTO allowance (customer_id, id, limit_name, most, until_at, reason, actor, made_at)
     VALUES (?, ?, ?, ?, ?, ?, ?, ?)`,
    [customer.id, id, limit, most, until, reason, actor.name, now],
  );
  await tx.record({
    action: 'raise limit',
    subject: `${LIMIT_WORDS[limit].title} of ${customer.code}`,
    after: { limit, most, until },
    reason,
    topic: 'summary',
    id: customer.code,
  });
  return { id };
}

/** Ends what was allowed beyond the plan. @throws Problem 404 */
export const endAllowance = (house: WriteHouse, scope: CustomerScope, id: string): Promise<void> =>
  write(house, scope, [lockOf(scope)], async (tx) => {
    const { customer } = scope;
    const now = house.clock.now();
    const before = await tx.row<{ limit_name: Limit; most: number; until_at: number }>(
      'SELECT limit_name, most, until_at FROM allowance WHERE customer_id = ? AND id = ?',
      [customer.id, id],
    );
    if (!before) throw notFound('allowance');
    if (before.until_at <= now) throw conflict('ended', 'It has ended already.');
    await tx.write('UPDATE allowance SET until_at = ? WHERE customer_id = ? AND id = ?', [
      now,
      customer.id,
      id,
    ]);
    await tx.record({
      action: 'end raised limit',
      subject: `${LIMIT_WORDS[before.limit_name].title} of ${customer.code}`,
      before: { limit: before.limit_name, most: before.most, until: before.until_at },
      topic: 'summary',
      id: customer.code,
    });
  });

/** Whoever has left is allowed no more than their plan. */
export const endAllowances = (tx: Connection, { customer }: CustomerScope, now: number): Promise<number> =>
  tx.write('DELETE FROM allowance WHERE customer_id = ? AND until_at > ?', [customer.id, now]);
