import { imageKey, versionName, type ImageVersion } from '../../core/images';
import { isRefreshDue, type IsHoliday, type RefreshRule } from '../../core/refresh';
import type { Intent } from '../../core/intent';
import { publicHolidays } from '../customers';
import type { App } from '../app';
import { sql, type Connection } from '../db';
import { everyImage, standingVersions, type StoredImage } from './facts';
import { intentsWhere } from '../intents';

/** A build machine that is wanted no more, and why. */
export interface IdleMachine {
  readonly owner: StoredImage['owner'];
  /** The image, and the number of its version. */
  readonly image: string;
  readonly version: number;
  readonly why: string;
}

/** The machines that are wanted no more: what they were for is captured, or nobody went on with it in time. */
export async function idleMachines({ db, clock }: Pick<App, 'db' | 'clock'>): Promise<IdleMachine[]> {
  const images = await everyImage(db);
  if (!images.some(({ line }) => line.versions.some((one) => one.machine))) return [];
  const standing = await standingVersions(db, images);
  const found: IdleMachine[] = [];
  for (const { id, owner, line } of images)
    for (const version of line.versions.filter((one) => one.machine)) {
      const key = imageKey(version.number, line.site);
      const isCaptured = standing.some((one) => one.image === id && one.key === key);
      const why = isCaptured ? 'it is captured' : await givenUp(db, owner.id, id, version, clock.now());
      if (why !== undefined) found.push({ owner, image: id, version: version.number, why });
    }
  return found;
}

async function givenUp(
  db: Connection,
  owner: string,
  image: string,
  { keepUntil }: ImageVersion,
  now: number,
): Promise<string | undefined> {
  if (now < keepUntil) return undefined;
  const atWork = await db.row(
    "SELECT id FROM run WHERE customer_id = ? AND environment_id = ? AND state IN ('running','stopping') LIMIT 1",
    [owner, image],
  );
  return atWork ? undefined : 'nobody went on with it in time';
}

/** Whose public holidays a rule leaves out. Those of a year take long to work out: each year is once. */
export function holidaysOf({ country }: Pick<RefreshRule, 'country'>): IsHoliday {
  const years = new Map<string, ReadonlySet<string>>();
  return (date) => {
    const year = date.slice(0, 4);
    const known =
      years.get(year) ?? new Set(publicHolidays(country, '', Number(year)).map((one) => one.date));
    years.set(year, known);
    return known.has(date);
  };
}

/** The images that their rule wants built anew now; for who is paused or goes nothing is built. */
export async function dueImages({ db, clock }: Pick<App, 'db' | 'clock'>): Promise<StoredImage[]> {
  const images = await everyImage(db);
  return images.filter(
    ({ owner, line }) =>
      line.refresh &&
      (owner.state === 'active' || owner.state === 'trial') &&
      isRefreshDue(line, clock.now(), holidaysOf(line.refresh)),
  );
}

/** A pool that tries versions first, and one that its rule had built and it does not have yet. */
export interface PilotPool {
  readonly customer: { readonly id: string; readonly code: string };
  readonly environment: string;
  readonly pool: string;
  readonly image: string;
}

/** Pools on trial whose newest version their rule asked for: nobody has to put it there. */
export async function waitingPilots(db: Connection): Promise<PilotPool[]> {
  const images = await everyImage(db);
  const fresh = images.flatMap(({ id, line }) => {
    const newest = line.versions.filter((one) => one.state === 'trial' && one.byRule).at(-1);
    return newest ? [{ id, line, newest }] : [];
  });
  if (fresh.length === 0) return [];
  const standing = await standingVersions(db, images);
  const pilots = await pilotPools(db);
  return fresh.flatMap(({ id, line, newest }) => {
    const image = versionName(line.code, newest.number);
    return pilots.flatMap(({ customer, environment, site, pool }) =>
      pool.line === line.code &&
      pool.image !== image &&
      standing.some((one) => one.image === id && one.key === imageKey(newest.number, site))
        ? [{ customer, environment, pool: pool.role, image }]
        : [],
    );
  });
}

async function pilotPools(db: Connection): Promise<
  {
    customer: PilotPool['customer'];
    environment: string;
    site: string;
    pool: Intent['pools'][number];
  }[]
> {
  const environments = await intentsWhere(
    db,
    sql`e.holds = 'desktops' AND e.wanted = 'serving' AND c.state IN ('active', 'trial')
      AND JSON_SEARCH(i.document, 'one', 'trial', NULL, '$.pools[*].track') IS NOT NULL`,
  );
  return environments.flatMap(({ customer, environment, site, intent }) =>
    intent.pools
      .filter((pool) => pool.track === 'trial')
      .map((pool) => ({ customer, environment, site, pool })),
  );
}
