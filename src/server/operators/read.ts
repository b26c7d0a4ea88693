import type { ChangedOperator, Operator, Right } from '../../contract';
import { rolesWith } from '../../core/access';
import { reachable, SYSTEM, type CustomerScope, type Scope } from '../access';
import { join, sql, type Connection } from '../db';
import { notFound } from '../problem';

interface Stored extends Omit<Operator, 'customers' | 'factor' | 'invited'> {
  readonly reach: string;
  readonly codes: string | null;
  readonly factor: number;
  readonly invited: number;
}

/**
 * Who works here, by name: to who reaches some customers only, those who reach nobody beyond them.
 * @param wall wall time
 */
export async function listOperators(db: Connection, scope: Scope, wall: number): Promise<Operator[]> {
  const within = !scope.customers
    ? sql`TRUE`
    : sql`(o.id = ${scope.actor.id} OR (o.reach = 'listed' AND NOT EXISTS (SELECT 1 FROM operator_customer y
        WHERE y.operator_id = o.id AND NOT ${reachable(scope, 'y.customer_id')})))`;
  const rows = await db.rows<Stored>(
    sql`SELECT o.id, o.name, o.mail, o.role, o.reach, o.ends_at AS endsAt, o.last_seen_at AS lastSeenAt,
       o.factor_sealed IS NOT NULL AS factor,
       EXISTS (SELECT 1 FROM invite i WHERE i.operator_id = o.id AND i.expires_at > ${wall}) AS invited,
       (SELECT COUNT(*) FROM web_session w WHERE w.operator_id = o.id AND w.expires_at > ${wall}) AS signIns,
       (SELECT COUNT(*) FROM api_token t WHERE t.operator_id = o.id AND t.expires_at > ${wall}) AS tokens,
       (SELECT GROUP_CONCAT(c.code ORDER BY c.code) FROM operator_customer x JOIN customer c ON c.id = x.customer_id
         WHERE x.operator_id = o.id) AS codes
     FROM operator o WHERE ${within} ORDER BY o.name`,
  );
  return rows.map(({ reach, codes, factor, invited, ...row }) => ({
    ...row,
    factor: factor === 1,
    invited: invited === 1,
    customers: reach === 'every' ? null : (codes ?? '').split(',').filter((code) => code !== ''),
  }));
}

/** One of them, with all the customers that they reach. @throws Problem 404 */
export async function operatorOf(db: Connection, id: string, wall: number): Promise<Operator> {
  const found = (await listOperators(db, SYSTEM, wall)).find((one) => one.id === id);
  if (!found) throw notFound('operator');
  return found;
}

/** What of somebody can be changed, as who asks may see it. @throws Problem 404 */
export async function changeableOf(
  db: Connection,
  scope: Scope,
  id: string,
  wall: number,
): Promise<ChangedOperator> {
  const found = (await listOperators(db, scope, wall)).find((one) => one.id === id);
  if (!found) throw notFound('operator');
  const { role, customers, endsAt } = found;
  return { role, customers, endsAt };
}

/** Whether somebody who works here has a right, reaches a customer, and is signed in anywhere or has a token. */
export const mayStill = async (
  db: Connection,
  operator: string,
  { customer }: CustomerScope,
  { right, wall }: { readonly right: Right; readonly wall: number },
): Promise<boolean> =>
  (await db.row(
    sql`SELECT 1 FROM operator o WHERE o.id = ${operator} AND o.role IN (${join(rolesWith(right))})
          AND (o.ends_at IS NULL OR o.ends_at > ${wall})
          AND (o.reach = 'every' OR EXISTS (SELECT 1 FROM operator_customer x
            WHERE x.operator_id = o.id AND x.customer_id = ${customer.id}))
          AND (EXISTS (SELECT 1 FROM web_session w WHERE w.operator_id = o.id AND w.expires_at > ${wall})
            OR EXISTS (SELECT 1 FROM api_token t WHERE t.operator_id = o.id AND t.expires_at > ${wall}
              AND (t.rights IS NULL OR FIND_IN_SET(${right}, t.rights) > 0)))`,
  )) !== undefined;
