import type { Found } from '../../contract';
import { reachable, type Scope } from '../access';
import { all, atMost, holds, sql, type Connection, type Sql } from '../db';

const MOST_EACH = 6;

/** What matches a text, among the customers in reach: customers first, then environments, hosts and people. */
export async function search(db: Connection, scope: Scope, text: string): Promise<Found[]> {
  const find = text.trim();
  if (find === '') return [];
  const reach = reachable(scope, 'c.id');
  const few = atMost(MOST_EACH);
  const ask = (statement: Sql): Promise<Found[]> => db.rows<Found>(sql`${statement} ${few}`);
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
       WHERE ${reach} AND e.holds <> 'image' AND INSTR(e.name, ${find}) > 0 ORDER BY e.retired_at IS NOT NULL, e.name`,
    ),
    ask(
      sql`SELECT 'host' AS kind, h.name, JSON_VALUE(h.attributes, '$.address') AS says, c.code AS customer,
         CONCAT('/customers/', c.code, '/hosts/', h.id) AS href
       FROM (SELECT r.customer_id, r.id FROM resource r WHERE ${all([
         sql`r.kind = 'host' AND r.returned_at IS NULL AND r.environment_id IS NOT NULL`,
         reachable(scope, 'r.customer_id'),
         holds(sql`r.find_text`, find),
       ])} ORDER BY r.find_text ${few}) AS found
         JOIN resource h ON (h.customer_id, h.id) = (found.customer_id, found.id) JOIN customer c ON c.id = h.customer_id
       ORDER BY h.name`,
    ),
    ask(
      sql`SELECT 'person' AS kind, CONCAT(x.given, ' ', x.family) AS name, x.account AS says, c.code AS customer,
         CONCAT('/customers/', c.code, '/people/', x.id) AS href
       FROM (SELECT p.customer_id, p.id FROM person p WHERE ${all([
         reachable(scope, 'p.customer_id'),
         holds(sql`p.find_text`, find),
       ])} ORDER BY p.find_text ${few}) AS found
         JOIN person x ON (x.customer_id, x.id) = (found.customer_id, found.id) JOIN customer c ON c.id = x.customer_id
       ORDER BY x.account`,
    ),
  ]);
  return found.flat();
}
