import type { Operator } from '../../contract';
import type { Scope } from '../access';
import type { Connection } from '../db';
import { notFound, unusable } from '../problem';

/**
 * Whom an operator shall reach, as ids. Nobody gives away more than they reach themselves.
 * @param codes of customers; null: every customer
 * @throws Problem 422 beside `customers`
 */
export async function reachFor(
  tx: Connection,
  { customers: own }: Scope,
  codes: readonly string[] | null,
): Promise<string[] | null> {
  if (codes === null) {
    if (own) throw unusable('customers', 'every customer is more than you reach yourself');
    return null;
  }
  const ids: string[] = [];
  for (const code of new Set(codes)) {
    const row = await tx.row<{ id: string }>("SELECT id FROM customer WHERE code = ? AND kind = 'customer'", [
      code,
    ]);
    if (!row || (own && !own.has(row.id))) throw unusable('customers', `${code} is not known`);
    ids.push(row.id);
  }
  return ids;
}

/** Keeps whom an operator reaches. */
export async function keepReach(
  tx: Connection,
  operator: string,
  ids: readonly string[] | null,
): Promise<void> {
  await tx.write('DELETE FROM operator_customer WHERE operator_id = ?', [operator]);
  for (const id of ids ?? [])
    await tx.write('INSERT INTO operator_customer (operator_id, customer_id) VALUES (?, ?)', [operator, id]);
}

/** Who reaches some customers reaches this one too from now on. */
export const reachToo = (tx: Connection, operator: string, customer: string): Promise<number> =>
  tx.write('INSERT INTO operator_customer (operator_id, customer_id) VALUES (?, ?)', [operator, customer]);

/** Who reaches more than the one who asks is not theirs to change. @throws Problem 404 */
export async function refuseBeyond(tx: Connection, scope: Scope, operator: Operator): Promise<void> {
  if (!scope.customers) return;
  await reachFor(tx, scope, operator.customers).catch(() => {
    throw notFound('operator');
  });
}
