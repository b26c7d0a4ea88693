import { reachable, type CustomerScope, type Scope } from '../access';
import type { Connection, Value } from '../db';

export interface SessionRow {
  readonly id: string;
  readonly customer: string;
  readonly account: string;
  readonly person: string | null;
  readonly host: string;
  readonly environment: string | null;
  readonly environmentId: string | null;
  readonly state: 'active' | 'idle';
  readonly since: number;
}

/** Who is signed in where: of one customer when inside it, otherwise of all in reach. In the order of their ids. */
export async function listSessions(
  db: Connection,
  scope: Scope | CustomerScope,
  page: { readonly after?: string | undefined; readonly find?: string | undefined; readonly limit: number },
): Promise<SessionRow[]> {
  const reach: { sql: string; values: Value[] } =
    'customer' in scope
      ? { sql: 's.customer_id = ?', values: [scope.customer.id] }
      : reachable(scope, 's.customer_id');
  const find = page.find ?? '';
  return db.rows<SessionRow>(
    `SELECT s.id, c.code AS customer, s.account, CONCAT(p.given, ' ', p.family) AS person, o.name AS host,
       e.name AS environment, e.id AS environmentId, s.state, s.since
     FROM session_seen s JOIN customer c ON c.id = s.customer_id
       JOIN observed o ON o.customer_id = s.customer_id AND o.ref = s.host_ref
       LEFT JOIN environment e ON e.customer_id = o.customer_id AND e.id = o.environment_id
       LEFT JOIN person p ON p.customer_id = s.customer_id AND p.account = s.account
     WHERE ${reach.sql} AND s.id > ?
       AND (? = '' OR INSTR(s.account, ?) > 0 OR INSTR(o.name, ?) > 0 OR INSTR(CONCAT(p.given, ' ', p.family), ?) > 0)
     ORDER BY s.id LIMIT ${Math.floor(page.limit)}`,
    [...reach.values, page.after ?? '', find, find, find, find],
  );
}
