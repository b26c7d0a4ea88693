import type { Difference, Environment, EnvironmentWhole, EnvironmentWithPools, Pool } from '../../contract';
import { keptDesktopsOf, keptDisksOf } from '../../core/desktops';
import type { Intent } from '../../core/intent';
import type { Facts } from '../../core/facts';
import { wishFor } from '../../core/overrides';
import { compare, differenceSays, extraKey, type Compared } from '../../core/planning';
import { isPersonal } from '../../core/sizing';
import { arcsOf } from '../../core/status';
import type { CustomerScope } from '../access';
import type { App } from '../app';
import type { Connection } from '../db';
import { imagesAt } from '../images';
import { promisedTo } from '../plans';
import { hostsOfCustomers } from './hosts';
import { originView } from './origin';
import { ENVIRONMENT, standingOf, type Standing } from './standing';

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

/** All that an environment's page shows. @throws Problem 404 when the customer has no such environment */
export async function wholeEnvironment(
  app: App,
  scope: CustomerScope,
  id: string,
): Promise<EnvironmentWhole> {
  const standing = await standingOf(app, scope, id);
  const [environment, differences, origin] = await Promise.all([
    environmentView(app, scope, standing),
    differencesView(app, scope, standing),
    originView(app, scope, standing),
  ]);
  return { environment, hosts: standing.hosts, differences, origin };
}

/** @throws Problem 404 when the customer has no such environment */
export const getEnvironment = async (
  app: App,
  scope: CustomerScope,
  id: string,
): Promise<EnvironmentWithPools> => environmentView(app, scope, await standingOf(app, scope, id));

async function environmentView(
  app: App,
  scope: CustomerScope,
  { row, facts: { known, present, environment }, hosts, offers }: Standing,
): Promise<EnvironmentWithPools> {
  const cidrOf = (key: string): string => String(known.find((one) => one.key === key)?.attributes.cidr ?? '');
  const open = hosts.filter((host) => host.status === 'serving');
  return {
    ...row,
    network: cidrOf(`network:${row.site}`),
    pools: environment ? poolsOf(environment.intent, cidrOf) : [],
    images: [...offers.images, ...(await imagesAt(app.db, scope, row.site)).here].map(({ name }) => name),
    keptDesktops: environment
      ? keptDesktopsOf(environment.intent, await promisedTo(app.db, scope, app.clock.now()))
      : [],
    keptDisks: environment ? keptDisksOf(environment.intent) : [],
    arcs: arcsOf(hosts, LARGE_RING),
    peopleIn: hosts.reduce((sum, host) => sum + host.sessions, 0),
    seatsOpen: open.reduce((sum, host) => sum + Math.max(0, host.seats - host.sessions), 0),
    drift: new Set(compare(app.catalogue.kinds, { known, present }).map((one) => one.key)).size,
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
export const differencesOf = async (app: App, scope: CustomerScope, id: string): Promise<Difference[]> =>
  differencesView(app, scope, await standingOf(app, scope, id));

async function differencesView(
  app: App,
  scope: CustomerScope,
  { row, facts, offers }: Standing,
): Promise<Difference[]> {
  const intent = facts.environment?.intent;
  const undone = new Set(await undoneKeys(app.db, scope, row.id));
  return compare(app.catalogue.kinds, facts).map((one) => ({
    key: one.key,
    kind: one.kind,
    name: one.name,
    attribute: typeof one.difference === 'string' ? null : one.difference.attribute,
    what: typeof one.difference === 'string' ? one.difference : 'otherwise',
    cause: isUndone(one, facts, undone) ? 'not done yet' : 'changed there',
    says: differenceSays(one, offers.sizes),
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
function isUndone(one: Compared, facts: Pick<Facts, 'present'>, undone: ReadonlySet<string>): boolean {
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
