import type { TrailEntry } from '../../contract';
import { MSP, reachable, type CustomerScope, type Scope } from '../access';
import type { Database, Value } from '../db';

type Stored = Omit<TrailEntry, 'before' | 'after'> & {
  readonly before: string | null;
  readonly after: string | null;
};

/**
 * The trail, newest first: of one customer when inside it, otherwise of all in reach. What is the MSP's own is
 * shown to those who reach every customer, and to whoever did it.
 * @param page `after` is the id of the last entry of the page before
 */
export async function listTrail(
  db: Database,
  scope: Scope | CustomerScope,
  page: { readonly after?: string | undefined; readonly limit: number; readonly find?: string | undefined },
): Promise<TrailEntry[]> {
  const reach = within(scope);
  const values: Value[] = [...reach.values];
  let where = reach.sql;
  if (page.after !== undefined) {
    where += ' AND t.id < ?';
    values.push(page.after);
  }
  if (page.find !== undefined && page.find !== '') {
    where += ' AND (INSTR(t.subject, ?) > 0 OR INSTR(t.action, ?) > 0 OR INSTR(t.actor, ?) > 0)';
    values.push(page.find, page.find, page.find);
  }
  const rows = await db.rows<Stored>(
    `SELECT t.id, t.at, IF(c.kind = 'msp', NULL, c.code) AS customer, t.actor, t.action, t.subject, t.run_id AS run,
            t.before_state AS \`before\`, t.after_state AS \`after\`, t.reason
     FROM trail t JOIN customer c ON c.id = t.customer_id
     WHERE ${where} ORDER BY t.id DESC LIMIT ${Math.floor(page.limit)}`,
    values,
  );
  return rows.map((row) => ({ ...row, before: parsed(row.before), after: parsed(row.after) }));
}

function within(scope: Scope | CustomerScope): { sql: string; values: Value[] } {
  if ('customer' in scope) return { sql: 't.customer_id = ?', values: [scope.customer.id] };
  if (!scope.customers) return { sql: 'TRUE', values: [] };
  const reach = reachable(scope, 't.customer_id');
  return {
    sql: `((t.customer_id = ? AND t.actor_id = ?) OR ${reach.sql})`,
    values: [MSP.id, scope.actor.id, ...reach.values],
  };
}

const parsed = (json: string | null): unknown => (json === null ? null : (JSON.parse(json) as unknown));
