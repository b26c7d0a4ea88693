import type { Shelf, Shelves, StrayServer } from '../../contract';
import { stockOf } from '../../core/changes';
import type { Condition } from '../../core/facts';
import type { Attributes } from '../../core/intent';
import { MSP, reachable, type Scope } from '../access';
import type { App } from '../app';
import { isReadyTaken } from '../claims';
import { raw, sql, type Connection } from '../db';
import { listPlans } from '../plans';
import { affordedBy, costOfOne, costSoFar, pricesAt } from './cost';
import { shelvesOf, type StoredShelf } from './keep';

export { keepShelves } from './keep';

const LAST = 12;

/** The shelves of all sites. Servers that nobody owns are told to those who reach every customer. */
export async function listShelves(app: App, scope: Scope): Promise<Shelves> {
  const stored = await shelvesOf(app.db);
  const [shelves, strays, handed, plans] = await Promise.all([
    Promise.all(stored.map((one) => shelfView(app, one))),
    scope.customers ? [] : strayServers(app.db, stored),
    handedLately(app.db, scope),
    listPlans(app.db, scope, app.clock.now()),
  ]);
  return {
    shelves,
    strays,
    handed,
    plans: plans.flatMap(({ code, name, versions: [newest] }) =>
      newest && newest.readyHosts > 0 ? [{ code, name, hosts: newest.readyHosts }] : [],
    ),
  };
}

async function shelfView(app: App, shelf: StoredShelf): Promise<Shelf> {
  const { id, site, siteName, intent } = shelf;
  const now = app.clock.now();
  const stock = stockOf(intent) ?? { hosts: 0, most: null };
  const pool = intent.pools[0] ?? { image: '', size: '', diskGiB: 0 };
  const prices = await pricesAt(app.db, site);
  return {
    environment: id,
    site,
    siteName,
    image: pool.image,
    size: pool.size,
    diskGiB: pool.diskGiB,
    wanted: stock.hosts,
    affords: affordedBy(stock.most, pool, prices, now) ?? null,
    most: stock.most,
    currency: prices?.currency ?? '',
    each: costOfOne(pool, prices, now) ?? null,
    soFar: (await costSoFar(app.db, id, prices, now)) ?? null,
    hosts: await hostsOf(app.db, id),
  };
}

async function hostsOf(db: Connection, shelf: string): Promise<Shelf['hosts']> {
  const rows = await db.rows<{
    name: string;
    since: number;
    present_condition: Condition | 'gone' | null;
    attributes: string | null;
    origin: string | null;
    taken: number;
    at_work: number;
  }>(
    `SELECT r.name, IFNULL(p.made_at, r.created_at) AS since, p.present_condition, p.attributes,
       JSON_VALUE(r.attributes, '$.from') AS origin,
       EXISTS (SELECT 1 FROM allocation a WHERE ${isReadyTaken('r.site_code', 'r.ref')})
         AS taken,
       EXISTS (SELECT 1 FROM step s WHERE s.customer_id = r.customer_id AND s.resource_id = r.id
         AND s.state IN ('waiting', 'working', 'failed')) AS at_work
     FROM resource r LEFT JOIN present_resource p ON p.customer_id = r.customer_id AND p.ref = r.ref
       AND p.provider_code = r.provider_code
     WHERE r.customer_id = ? AND r.environment_id = ? AND r.kind = 'host' AND r.returned_at IS NULL ORDER BY r.name`,
    [MSP.id, shelf],
  );
  return rows.map((row) => ({
    name: row.name,
    state:
      row.taken === 1
        ? 'handed over'
        : row.at_work === 1
          ? 'being built'
          : row.present_condition === 'well'
            ? 'ready'
            : 'unwell',
    since: row.since,
    lacks: lacksOf(row.attributes),
    byHand: row.origin !== null,
  }));
}

function lacksOf(attributes: string | null): string[] {
  const { lacks } = JSON.parse(attributes ?? '{}') as Attributes;
  return Array.isArray(lacks) ? lacks.map(String) : [];
}

async function strayServers(db: Connection, shelves: readonly StoredShelf[]): Promise<StrayServer[]> {
  const rows = await db.rows<{
    ref: string;
    name: string;
    site: string;
    size: string | null;
    attributes: string;
  }>(
    `SELECT p.ref, p.name, p.site_code AS site, p.size, p.attributes FROM present_resource p
     WHERE p.customer_id = ? AND p.resource_id IS NULL AND p.kind = 'host' AND p.present_condition = 'well'
       AND NOT EXISTS (SELECT 1 FROM allocation a WHERE ${isReadyTaken('p.site_code', 'p.ref')})
     ORDER BY p.site_code, p.name LIMIT 200`,
    [MSP.id],
  );
  return rows.map(({ attributes, size, ...row }) => ({
    ...row,
    size: size ?? '',
    diskGiB: Number((JSON.parse(attributes) as Attributes).diskGiB ?? 0),
    lacks: lacksOf(attributes),
    shelf: shelves.find((one) => one.site === row.site && one.intent.pools[0]?.size === size)?.id ?? null,
  }));
}

/** From the trail, which tells who got which: of customers out of reach nothing. */
async function handedLately(db: Connection, scope: Scope): Promise<Shelves['handed']> {
  const rows = await db.rows<{ at: number; host: string; customer: string; to: string }>(
    sql`SELECT t.at, t.subject AS host, c.code AS customer, JSON_VALUE(t.after_state, '$.host') AS ${raw('`to`')}
        FROM trail t JOIN customer c ON c.code = JSON_VALUE(t.after_state, '$.customer') COLLATE utf8mb4_nopad_bin
        WHERE t.customer_id = ${MSP.id} AND t.action = 'hand over' AND ${reachable(scope, 'c.id')}
        ORDER BY t.at DESC, t.id DESC LIMIT ${LAST}`,
  );
  return rows;
}
