import type { Customer, CustomerState, Mark } from '../../contract';
import { reachable, type CustomerScope, type Scope } from '../access';
import { all, atMost, raw, sql, type Connection, type Sql } from '../db';
import { planNow } from '../plans';
import { conflict, notFound } from '../problem';

interface Stored {
  readonly code: string;
  readonly name: string;
  readonly state: CustomerState;
  readonly plan: string;
  readonly site: string;
  readonly site_name: string;
  readonly zone: string;
  readonly currency: string;
  readonly realm: string;
  readonly people: number;
  readonly hosts: number;
  readonly blocks: string | null;
  readonly mark_hue: number;
  readonly mark_shape: number;
  readonly mark_pattern: number;
}

/** @param counts how many people and hosts are told: counted for one, as they are kept ready for many */
const columns = (counts: 'now' | 'kept', now: number): Sql =>
  sql`SELECT c.code, c.name, c.state, p.name AS plan, c.home_site AS site, s.name AS site_name, c.zone, c.currency,
  c.realm, c.mark_hue, c.mark_shape, c.mark_pattern, ${raw(COUNTS[counts])},
  (SELECT JSON_ARRAYAGG(JSON_OBJECT('site', b.site_code, 'cidr', b.cidr)) FROM address_block b
    WHERE b.customer_id = c.id AND b.returned_at IS NULL) AS blocks
  FROM customer c JOIN site s ON s.code = c.home_site JOIN summary t ON t.customer_id = c.id ${planNow(now)}`;

const COUNTS = {
  now: `(SELECT COUNT(*) FROM person x WHERE x.customer_id = c.id AND x.left_at IS NULL) AS people,
    (SELECT COUNT(*) FROM resource h WHERE h.customer_id = c.id AND h.kind = 'host' AND h.wanted AND h.returned_at IS NULL) AS hosts`,
  kept: 't.people, t.hosts',
} as const;

/** Customers in reach, by name. @param page `after` is the code of the last one of the page before */
export async function listCustomers(
  db: Connection,
  scope: Scope,
  page: { readonly after?: string | undefined; readonly find?: string | undefined; readonly limit: number },
  now: number,
): Promise<Customer[]> {
  const { after, find = '' } = page;
  const where = all([
    sql`c.kind = 'customer'`,
    reachable(scope, 'c.id'),
    after === undefined ? undefined : sql`c.code > ${after}`,
    find === '' ? undefined : sql`(INSTR(c.name, ${find}) > 0 OR INSTR(c.code, ${find}) > 0)`,
  ]);
  const rows = await db.rows<Stored>(
    sql`${columns('kept', now)} WHERE ${where} ORDER BY c.code ${atMost(page.limit)}`,
  );
  return rows.map(readCustomer);
}

/** The marks of all customers in reach, by code; the MSP's own among them, to those who reach everyone. */
export async function marksOf(db: Connection, scope: Scope): Promise<Record<string, Mark>> {
  const rows = await db.rows<Mark>(
    sql`SELECT c.code, c.mark_hue AS hue, c.mark_shape AS shape, c.mark_pattern AS pattern
        FROM customer c WHERE ${reachable(scope, 'c.id')} ORDER BY c.code`,
  );
  return Object.fromEntries(rows.map((mark) => [mark.code, mark]));
}

export async function getCustomer(db: Connection, scope: CustomerScope, now: number): Promise<Customer> {
  const row = await db.row<Stored>(sql`${columns('now', now)} WHERE c.id = ${scope.customer.id}`);
  if (!row) throw notFound('customer');
  return readCustomer(row);
}

const readCustomer = (row: Stored): Customer => ({
  code: row.code,
  name: row.name,
  state: row.state,
  plan: row.plan,
  site: row.site,
  siteName: row.site_name,
  zone: row.zone,
  currency: row.currency,
  realm: row.realm,
  people: row.people,
  hosts: row.hosts,
  blocks: row.blocks === null ? [] : (JSON.parse(row.blocks) as { site: string; cidr: string }[]),
  mark: { code: row.code, hue: row.mark_hue, shape: row.mark_shape, pattern: row.mark_pattern },
});

/** The name of a customer's directory. @throws Problem 404 */
export async function realmOf(db: Connection, { customer }: CustomerScope): Promise<string> {
  const row = await db.row<{ realm: string }>('SELECT realm FROM customer WHERE id = ?', [customer.id]);
  if (!row) throw notFound('customer');
  return row.realm;
}

/**
 * Of who has left nothing is kept that was not kept before: it would stay when what there is is deleted.
 * @throws Problem 409 when they have
 */
export async function refuseGone(tx: Connection, { customer }: CustomerScope): Promise<void> {
  const row = await tx.row<{ state: string }>('SELECT state FROM customer WHERE id = ?', [customer.id]);
  if (row?.state === 'retired') throw conflict('retired', `${customer.code} has left: nothing more is kept.`);
}
