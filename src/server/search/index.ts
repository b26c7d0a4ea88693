import type { Found } from '../../contract';
import { reachable, type Scope } from '../access';
import { atMost, empty, sql, type Connection, type Sql } from '../db';

const MOST_EACH = 6;

/** What matches a text, among the customers in reach: customers first, then environments, hosts and people. */
export async function search(db: Connection, scope: Scope, text: string): Promise<Found[]> {
  const find = text.trim();
  if (find === '') return [];
  const reach = reachable(scope, 'c.id');
  // Addresses stand within attributes, and reading those of every host takes its time.
  const orAddress = /^[\d.]+$/.test(find)
    ? sql`OR INSTR(JSON_VALUE(h.attributes, '$.address'), ${find}) > 0`
    : empty;
  const ask = (statement: Sql): Promise<Found[]> => db.rows<Found>(sql`${statement} ${atMost(MOST_EACH)}`);
  const found = await Promise.all([
    ask(
      sql`SELECT 'customer' AS kind, c.name, c.state AS says, c.code AS customer, CONCAT('/customers/', c.code) AS href
       FROM customer c WHERE ${reach} AND c.kind = 'customer'
         AND (INSTR(c.name, ${find}) > 0 OR INSTR(c.code, ${find}) > 0) ORDER BY c.code`,
    ),
    ask(
      sql`SELECT 'environment' AS kind, e.name, IF(e.retired_at IS NULL, e.site_code, 'retired') AS says, c.code AS customer,
         CONCAT('/customers/', c.code, '/environments/', e.id) AS href
       FROM environment e JOIN customer c ON c.id = e.customer_id
       WHERE ${reach} AND INSTR(e.name, ${find}) > 0 ORDER BY e.retired_at IS NOT NULL, e.name`,
    ),
    ask(
      sql`SELECT 'host' AS kind, h.name, JSON_VALUE(h.attributes, '$.address') AS says, c.code AS customer,
         CONCAT('/customers/', c.code, '/environments/', h.environment_id) AS href
       FROM resource h JOIN customer c ON c.id = h.customer_id
       WHERE ${reach} AND h.kind = 'host' AND h.returned_at IS NULL AND h.environment_id IS NOT NULL
         AND (INSTR(h.name, ${find}) > 0 ${orAddress}) ORDER BY h.name`,
    ),
    ask(
      sql`SELECT 'person' AS kind, CONCAT(x.given, ' ', x.family) AS name, x.account AS says, c.code AS customer,
         CONCAT('/customers/', c.code, '/people?find=', x.account) AS href
       FROM person x JOIN customer c ON c.id = x.customer_id
       WHERE ${reach} AND (INSTR(x.account, ${find}) > 0 OR INSTR(CONCAT(x.given, ' ', x.family), ${find}) > 0)
       ORDER BY x.account`,
    ),
  ]);
  return found.flat();
}
