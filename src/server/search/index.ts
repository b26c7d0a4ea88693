import type { Found } from '../../contract';
import { reachable, type Scope } from '../access';
import type { Connection } from '../db';

const MOST_EACH = 6;

/** What matches a text, among the customers in reach: customers first, then environments, hosts and people. */
export async function search(db: Connection, scope: Scope, text: string): Promise<Found[]> {
  const find = text.trim();
  if (find === '') return [];
  const reach = reachable(scope, 'c.id');
  const ask = (sql: string, times: number): Promise<Found[]> =>
    db.rows<Found>(`${sql} LIMIT ${MOST_EACH}`, [
      ...reach.values,
      ...Array.from({ length: times }, () => find),
    ]);
  const found = await Promise.all([
    ask(
      `SELECT 'customer' AS kind, c.name, c.state AS says, c.code AS customer, CONCAT('/customers/', c.code) AS href
       FROM customer c WHERE ${reach.sql} AND c.kind = 'customer' AND (INSTR(c.name, ?) > 0 OR INSTR(c.code, ?) > 0) ORDER BY c.code`,
      2,
    ),
    ask(
      `SELECT 'environment' AS kind, e.name, IF(e.retired_at IS NULL, e.site_code, 'retired') AS says, c.code AS customer,
         CONCAT('/customers/', c.code, '/environments/', e.id) AS href
       FROM environment e JOIN customer c ON c.id = e.customer_id
       WHERE ${reach.sql} AND INSTR(e.name, ?) > 0 ORDER BY e.retired_at IS NOT NULL, e.name`,
      1,
    ),
    ask(
      `SELECT 'host' AS kind, h.name, JSON_VALUE(h.attributes, '$.address') AS says, c.code AS customer,
         CONCAT('/customers/', c.code, '/environments/', h.environment_id) AS href
       FROM resource h JOIN customer c ON c.id = h.customer_id
       WHERE ${reach.sql} AND h.kind = 'host' AND h.returned_at IS NULL AND h.environment_id IS NOT NULL
         AND (INSTR(h.name, ?) > 0 OR INSTR(JSON_VALUE(h.attributes, '$.address'), ?) > 0) ORDER BY h.name`,
      2,
    ),
    ask(
      `SELECT 'person' AS kind, CONCAT(x.given, ' ', x.family) AS name, x.account AS says, c.code AS customer,
         CONCAT('/customers/', c.code, '/people?find=', x.account) AS href
       FROM person x JOIN customer c ON c.id = x.customer_id
       WHERE ${reach.sql} AND (INSTR(x.account, ?) > 0 OR INSTR(CONCAT(x.given, ' ', x.family), ?) > 0)
       ORDER BY x.account`,
      2,
    ),
  ]);
  return found.flat();
}
