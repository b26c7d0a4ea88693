import type { Session, SessionCount } from '../../contract';
import { within, type CustomerScope, type Scope } from '../access';
import { all, atMost, sql, type Connection, type Sql } from '../db';
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
 * @throws Problem 400 when `after` is no cursor
 */
export async function listSessions(
  db: Connection,
  scope: Scope | CustomerScope,
  page: SessionPage,
): Promise<Session[]> {
  const { find = '' } = page;
  const where = all([
    within(scope, 's.customer_id'),
    page.after === undefined ? undefined : olderThan(page.after),
    find === '' ? undefined : holds(find),
  ]);
  return db.rows<Session>(
    // From the sessions on, in their order: a page ends with its last row, however many there are.
    sql`SELECT STRAIGHT_JOIN s.id, c.code AS customer, s.account, CONCAT(p.given, ' ', p.family) AS person, o.name AS host,
       e.name AS environment, e.id AS environmentId, s.state, s.since
     FROM session s JOIN customer c ON c.id = s.customer_id AND c.kind = 'customer'
       JOIN present_resource o ON (o.customer_id, o.provider_code, o.ref) = (s.customer_id, s.provider_code, s.host_ref)
       LEFT JOIN environment e ON e.customer_id = o.customer_id AND e.id = o.environment_id
       LEFT JOIN person p ON p.customer_id = s.customer_id AND p.account = s.account
     WHERE ${where} ORDER BY s.since DESC, s.id DESC ${atMost(page.limit)}`,
  );
}

/** Hosts and people that match are looked up once, not again for each session. */
const holds = (find: string): Sql =>
  sql`(INSTR(s.account, ${find}) > 0
    OR (s.customer_id, s.provider_code, s.host_ref) IN
      (SELECT customer_id, provider_code, ref FROM present_resource WHERE kind = 'host' AND INSTR(name, ${find}) > 0)
    OR (s.customer_id, s.account) IN
      (SELECT customer_id, account FROM person WHERE INSTR(CONCAT(given, ' ', family), ${find}) > 0))`;

function olderThan(cursor: string): Sql {
  const [, since = '', id = ''] = /^(\d+)-([\w/-]+)$/.exec(cursor) ?? [];
  if (id === '')
    throw new Problem(400, 'invalid', 'That is no place in this list.', {
      fields: { after: 'use the `next` of the page before' },
    });
  return sql`(s.since < ${Number(since)} OR (s.since = ${Number(since)} AND s.id < ${id}))`;
}

/** How many sessions each customer in reach has; the most first. Customers without any are left out. */
export async function countSessions(db: Connection, scope: Scope): Promise<SessionCount[]> {
  const rows = await db.rows<{ customer: string; active: string; idle: string }>(
    sql`SELECT c.code AS customer, SUM(s.state = 'active') AS active, SUM(s.state = 'idle') AS idle
     FROM session s JOIN customer c ON c.id = s.customer_id AND c.kind = 'customer'
     WHERE ${within(scope, 's.customer_id')} GROUP BY c.code ORDER BY COUNT(*) DESC, c.code`,
  );
  return rows.map((row) => ({ ...row, active: Number(row.active), idle: Number(row.idle) }));
}
