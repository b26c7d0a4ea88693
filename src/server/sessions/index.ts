import type { Session, SessionCount } from '../../contract';
import { reachable, type CustomerScope, type Scope } from '../access';
import type { Connection, Value } from '../db';
import { Problem } from '../problem';

export interface SessionPage {
  /** Where the page before ended, as `sessionCursor` writes it. */
  readonly after?: string | undefined;
  /** Only those whose account, person or host contains this. */
  readonly find?: string | undefined;
  readonly limit: number;
}

export const sessionCursor = ({ since, id }: Session): string => `${since}-${id}`;

/**
 * Who is signed in where, the newest first: of one customer when inside it, otherwise of all in reach.
 * @throws Problem 422 when `after` is no cursor
 */
export async function listSessions(
  db: Connection,
  scope: Scope | CustomerScope,
  page: SessionPage,
): Promise<Session[]> {
  const { sql, values } = within(scope);
  const where = [sql];
  if (page.after !== undefined) {
    const [, since = '', id = ''] = /^(\d+)-([\w/-]+)$/.exec(page.after) ?? [];
    if (id === '')
      throw new Problem(422, 'invalid', 'That is no place in this list.', {
        fields: { after: 'use the `next` of the page before' },
      });
    where.push('(s.since < ? OR (s.since = ? AND s.id < ?))');
    values.push(Number(since), Number(since), id);
  }
  if (page.find !== undefined && page.find !== '') {
    where.push(
      "(INSTR(s.account, ?) > 0 OR INSTR(o.name, ?) > 0 OR INSTR(CONCAT(p.given, ' ', p.family), ?) > 0)",
    );
    values.push(page.find, page.find, page.find);
  }
  return db.rows<Session>(
    `SELECT s.id, c.code AS customer, s.account, CONCAT(p.given, ' ', p.family) AS person, o.name AS host,
       e.name AS environment, e.id AS environmentId, s.state, s.since
     FROM session s JOIN customer c ON c.id = s.customer_id AND c.kind = 'customer'
       JOIN present_resource o ON (o.customer_id, o.provider_code, o.ref) = (s.customer_id, s.provider_code, s.host_ref)
       LEFT JOIN environment e ON e.customer_id = o.customer_id AND e.id = o.environment_id
       LEFT JOIN person p ON p.customer_id = s.customer_id AND p.account = s.account
     WHERE ${where.join(' AND ')}
     ORDER BY s.since DESC, s.id DESC LIMIT ${Math.floor(page.limit)}`,
    values,
  );
}

/** How many sessions each customer in reach has; the most first. Customers without any are left out. */
export async function countSessions(db: Connection, scope: Scope): Promise<SessionCount[]> {
  const { sql, values } = within(scope);
  const rows = await db.rows<{ customer: string; active: string; idle: string }>(
    `SELECT c.code AS customer, SUM(s.state = 'active') AS active, SUM(s.state = 'idle') AS idle
     FROM session s JOIN customer c ON c.id = s.customer_id AND c.kind = 'customer'
     WHERE ${sql} GROUP BY c.code ORDER BY COUNT(*) DESC, c.code`,
    values,
  );
  return rows.map((row) => ({ ...row, active: Number(row.active), idle: Number(row.idle) }));
}

function within(scope: Scope | CustomerScope): { sql: string; values: Value[] } {
  if ('customer' in scope) return { sql: 's.customer_id = ?', values: [scope.customer.id] };
  return reachable(scope, 's.customer_id');
}
