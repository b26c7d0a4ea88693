import type { Difference, Environment, EnvironmentWithPools, Pool } from '../../contract';
import { keptDesktopsOf, keptDisksOf } from '../../core/desktops';
import type { Intent } from '../../core/intent';
import type { Facts } from '../../core/facts';
import { wishFor } from '../../core/overrides';
import { compare, differenceSays, extraKey, type Compared } from '../../core/planning';
import { isPersonal } from '../../core/sizing';
import { arcsOf } from '../../core/status';
import type { CustomerScope } from '../access';
import type { App } from '../app';
import { readFacts } from '../changes';
import type { Connection } from '../db';
import { notFound } from '../problem';
import { hostsOfCustomers, listHosts } from './hosts';

/** SQL: whether the run that makes environment `e`, its first, is in one of some states. */
const MADE_BY = (states: string): string =>
  `(SELECT r.state FROM run r WHERE r.customer_id = e.customer_id AND r.environment_id = e.id ORDER BY r.id LIMIT 1)
     IN (${states})`;

const ENVIRONMENT = `SELECT e.id, e.name, e.site_code AS site, s.name AS siteName, IFNULL(e.template_code, '') AS template,
    IFNULL(e.revision, 0) AS revision,
    CASE WHEN e.retired_at IS NOT NULL THEN 'retired' WHEN e.wanted = 'retired' THEN 'leaving'
         WHEN ${MADE_BY("'running','stopping'")} THEN 'under way'
         WHEN ${MADE_BY("'stopped'")} THEN 'unfinished' ELSE 'serving' END AS state,
    e.people, e.holds, e.created_at AS createdAt, e.retired_at AS retiredAt, e.version,
    (SELECT COUNT(*) FROM resource h WHERE h.customer_id = e.customer_id AND h.environment_id = e.id AND h.kind = 'host'
      AND h.returned_at IS NULL AND h.wanted) AS hosts
  FROM environment e JOIN site s ON s.code = e.site_code`;

/** Arcs that a small ring can still show, and a page's picture. */
const SMALL_RING = 24;
const LARGE_RING = 120;

/** A customer's environments, the retired ones last. @param page `after` is the id of the last one of the page before */
export async function listEnvironments(
  db: Connection,
  scope: CustomerScope,
  page: {
    readonly after?: string | undefined;
    readonly find?: string | undefined;
    readonly limit: number;
  } = {
    limit: 500,
  },
): Promise<Environment[]> {
  const rows = await db.rows<Omit<Environment, 'arcs'>>(
    `${ENVIRONMENT} WHERE e.customer_id = ? AND e.id > ? AND INSTR(e.name, ?) > 0
     ORDER BY e.id LIMIT ${Math.floor(page.limit)}`,
    [scope.customer.id, page.after ?? '', page.find ?? ''],
  );
  const hosts = (await hostsOfCustomers(db, [scope.customer.id])).get(scope.customer.id) ?? [];
  return rows.map((row) => ({
    ...row,
    arcs: arcsOf(
      hosts.filter((host) => host.environmentId === row.id),
      SMALL_RING,
    ),
  }));
}

/** What reads only what stands asks nothing outside. */
export const NOT_ASKED = { directory: { worked: true, says: '' } };

/** @throws Problem 404 when the customer has no such environment */
export async function getEnvironment(
  app: App,
  scope: CustomerScope,
  id: string,
): Promise<EnvironmentWithPools> {
  const row = await app.db.row<Omit<Environment, 'arcs'>>(
    `${ENVIRONMENT} WHERE e.customer_id = ? AND e.id = ?`,
    [scope.customer.id, id],
  );
  if (!row) throw notFound('environment');
  const facts = await readFacts(app, app.db, scope, { site: row.site, environment: id }, NOT_ASKED);
  const hosts = await listHosts(app.db, scope, id, { limit: 10_000 });
  const open = hosts.filter((host) => host.status === 'serving');
  const cidrOf = (key: string): string =>
    String(facts.known.find((one) => one.key === key)?.attributes.cidr ?? '');
  return {
    ...row,
    network: cidrOf(`network:${row.site}`),
    pools: facts.environment ? poolsOf(facts.environment.intent, cidrOf) : [],
    images: facts.site.images.filter(({ of }) => of?.state !== 'dropped').map(({ name }) => name),
    keptDesktops: facts.environment ? keptDesktopsOf(facts.environment.intent, facts.customer.plan) : [],
    keptDisks: facts.environment ? keptDisksOf(facts.environment.intent) : [],
    arcs: arcsOf(hosts, LARGE_RING),
    peopleIn: hosts.reduce((sum, host) => sum + host.sessions, 0),
    seatsOpen: open.reduce((sum, host) => sum + Math.max(0, host.seats - host.sessions), 0),
    drift: new Set(compare(app.catalogue.kinds, facts).map((one) => one.key)).size,
  };
}

const poolsOf = (intent: Intent, cidrOf: (key: string) => string): Pool[] =>
  intent.pools.map((pool) => ({
    role: pool.role,
    image: pool.image,
    track: pool.track ?? null,
    size: pool.size,
    seats: pool.seats,
    arrival: pool.arrival,
    diskGiB: pool.diskGiB,
    shareGiB: pool.shareGiB,
    people: pool.people,
    ceiling: pool.ceiling,
    hosts: pool.hosts.length,
    subnet: cidrOf(`subnet:${pool.role}`),
    items: pool.items,
    assign: isPersonal(pool) ? pool.assign : null,
    ownDiskGiB: pool.ownDiskGiB,
  }));

/** Every difference between what is wanted of an environment and what is there. @throws Problem 404 */
export async function differencesOf(app: App, scope: CustomerScope, id: string): Promise<Difference[]> {
  const row = await app.db.row<{ site_code: string; retired_at: number | null }>(
    'SELECT site_code, retired_at FROM environment WHERE customer_id = ? AND id = ?',
    [scope.customer.id, id],
  );
  if (!row) throw notFound('environment');
  const facts = await readFacts(app, app.db, scope, { site: row.site_code, environment: id }, NOT_ASKED);
  const intent = facts.environment?.intent;
  const undone = new Set(await undoneKeys(app.db, scope, id));
  return compare(app.catalogue.kinds, facts).map((one) => ({
    key: one.key,
    kind: one.kind,
    name: one.name,
    attribute: typeof one.difference === 'string' ? null : one.difference.attribute,
    what: typeof one.difference === 'string' ? one.difference : 'otherwise',
    cause: isUndone(one, facts, undone) ? 'not done yet' : 'changed there',
    says: differenceSays(one, facts.site.sizes),
    disturbs: typeof one.difference !== 'string' && one.difference.disturbs,
    takeable: intent !== undefined && isTakeable(app, intent, one),
  }));
}

/** What was asked for in its newest version and was not done: its run has stopped. */
async function undoneKeys(db: Connection, scope: CustomerScope, environment: string): Promise<string[]> {
  const rows = await db.rows<{ resource_key: string }>(
    `SELECT DISTINCT r.resource_key FROM resource r JOIN step s ON s.customer_id = r.customer_id
       AND s.resource_id = r.id AND s.wanted_version = r.version AND s.state IN ('waiting','working','failed')
     WHERE r.customer_id = ? AND r.environment_id = ? AND r.returned_at IS NULL`,
    [scope.customer.id, environment],
  );
  return rows.map((row) => row.resource_key);
}

/** What is there without being wanted is undone where it was ours to take away. */
function isUndone(one: Compared, facts: Facts, undone: ReadonlySet<string>): boolean {
  const key =
    one.difference === 'extra'
      ? (facts.present.find(({ ref }) => extraKey(ref) === one.key)?.key ?? '')
      : one.key;
  return undone.has(key);
}

function isTakeable(app: App, intent: Intent, one: Compared): boolean {
  if (one.difference === 'extra') return false;
  if (one.difference !== 'missing' && wishFor(one.difference.attribute, one.difference.present)) return true;
  const taken = app.catalogue.kind(one.kind).take?.(intent, one.key, one.difference);
  return taken !== undefined && JSON.stringify(taken) !== JSON.stringify(intent);
}
