import { timingSafeEqual } from 'node:crypto';
import type { MadeImage, MadeVersion } from '../../contract';
import { imageKey, versionName, type ImageVersion } from '../../core/images';
import { comparePrograms, compareRecipes } from '../../core/recipes';
import { refreshCalendar, refreshTimes } from '../../core/refresh';
import { sum, type Money } from '../../core/money';
import { monthlyCost } from '../../core/rating';
import { MSP, reachable, systemScope, type Scope } from '../access';
import type { App } from '../app';
import { join, sql, type Connection } from '../db';
import { notFound } from '../problem';
import { listRuns } from '../runs';
import { ratesOf } from '../pricing';
import { pricesInForce, type ProviderPrices } from '../providers';
import {
  everyImage,
  imagesInReach,
  standingVersions,
  usesOf,
  type StandingVersion,
  type StoredImage,
  type Use,
} from './facts';
import { holidaysOf } from './keep';

const LAST_RUNS = 30;
/** So many of the next times are told, and so many stand in the calendar. */
const NEXT = 4;
const YEAR = 12;

interface Ground {
  readonly sites: ReadonlyMap<string, { readonly name: string; readonly provider: string }>;
  readonly prices: ReadonlyMap<string, ProviderPrices>;
  /** What customers with images of their own are charged by. */
  readonly cards: ReadonlyMap<string, ProviderPrices>;
  readonly reach: ReadonlySet<string>;
  readonly reachesAll: boolean;
  readonly now: number;
  /** What the address of an image's calendar ends with. */
  readonly keyOf: (image: string) => string;
}

/** The images that are made here, for everyone and for customers in reach. Whose hosts stand on them is told of customers in reach; of others only how many. */
export async function listImages(app: App, scope: Scope): Promise<MadeImage[]> {
  const [images, ground] = await Promise.all([imagesInReach(app.db, scope), groundOf(app, scope)]);
  const cards = await cardsOf(app.db, images);
  const standing = await standingVersions(app.db, images);
  return Promise.all(images.map((one) => imageView(app.db, one, standing, { ...ground, cards })));
}

async function groundOf(app: App, scope: Scope): Promise<Omit<Ground, 'cards'>> {
  const now = app.clock.now();
  const [sites, prices, customers] = await Promise.all([
    app.db.rows<{ code: string; name: string; provider: string }>(
      'SELECT code, name, provider_code AS provider FROM site',
    ),
    pricesInForce(app.db, now),
    app.db.rows<{ code: string }>(sql`SELECT c.code FROM customer c WHERE ${reachable(scope, 'c.id')}`),
  ]);
  return {
    sites: new Map(sites.map(({ code, ...site }) => [code, site])),
    prices,
    reach: new Set(customers.map(({ code }) => code)),
    reachesAll: scope.customers === undefined,
    now,
    keyOf: (image) => calendarKey(app, image),
  };
}

/** What each customer is charged by who has an image of their own. */
async function cardsOf(db: Connection, images: readonly StoredImage[]): Promise<Map<string, ProviderPrices>> {
  const ids = [...new Set(images.map(({ owner }) => owner.id))].filter((id) => id !== MSP.id);
  if (ids.length === 0) return new Map();
  const rows = await db.rows<{ code: string; currency: string; card: string }>(
    sql`SELECT code, currency, card_code AS card FROM customer WHERE id IN (${join(ids)}) AND card_code IS NOT NULL`,
  );
  return new Map(
    await Promise.all(
      rows.map(
        async ({ code, currency, card }) => [code, { currency, rates: await ratesOf(db, card) }] as const,
      ),
    ),
  );
}

const calendarKey = ({ sealing }: Pick<App, 'sealing'>, image: string): string =>
  sealing.sign(`calendar of ${image}`).subarray(0, 18).toString('base64url');

/** An image's calendar, for who knows its address. @throws Problem 404 */
export async function readCalendar(app: App, image: string, key: string): Promise<string> {
  const [given, own] = [Buffer.from(key), Buffer.from(calendarKey(app, image))];
  const isKnown = given.length === own.length && timingSafeEqual(given, own);
  const found = isKnown ? (await everyImage(app.db)).find((one) => one.id === image) : undefined;
  if (!found) throw notFound('image');
  const { line } = found;
  const now = app.clock.now();
  const times = line.refresh ? refreshTimes(line.refresh, now, YEAR, holidaysOf(line.refresh)) : [];
  return refreshCalendar(line, times, now);
}

async function imageView(
  db: Connection,
  { id, owner, line }: StoredImage,
  standing: readonly StandingVersion[],
  ground: Ground,
): Promise<MadeImage> {
  const own = standing.filter((one) => one.image === id);
  const isEveryones = owner.id === MSP.id;
  const [uses, runs] = await Promise.all([
    usesOf(db, owner.id, line.code),
    // Why something was done with one for everyone may name customers: who does not reach them all is not told.
    ground.reachesAll || !isEveryones
      ? listRuns(db, systemScope(owner), { environmentId: id, limit: LAST_RUNS })
      : [],
  ]);
  const { versions, refresh, ...image } = line;
  return {
    id,
    owner: owner.code,
    ...image,
    siteName: ground.sites.get(line.site)?.name ?? line.site,
    versions: [...versions]
      .reverse()
      .map((one) => versionView(line.code, one, before(versions, one), own, uses, ground)),
    refresh: refresh
      ? {
          ...refresh,
          next: refreshTimes(refresh, ground.now, NEXT, holidaysOf(refresh)),
          calendar: `/api/v1/images/${id}/calendar/${ground.keyOf(id)}`,
        }
      : null,
    stored: storedAt(own, isEveryones ? undefined : (ground.cards.get(owner.code) ?? 'none'), ground),
    runs,
  };
}

const before = (versions: readonly ImageVersion[], version: ImageVersion): ImageVersion | undefined =>
  versions.filter((one) => one.number < version.number).at(-1);

function versionView(
  code: string,
  version: ImageVersion,
  previous: ImageVersion | undefined,
  standing: readonly StandingVersion[],
  uses: readonly Use[],
  { sites, reach }: Ground,
): MadeVersion {
  const at = (one: ImageVersion | undefined, site: string): StandingVersion | undefined =>
    one && standing.find(({ key }) => key === imageKey(one.number, site));
  const anyOf = (one: ImageVersion | undefined): StandingVersion | undefined =>
    one?.sites.flatMap((site) => at(one, site) ?? [])[0];
  const [found, old] = [anyOf(version), anyOf(previous)];
  const own = uses.filter((one) => one.version === versionName(code, version.number));
  return {
    number: version.number,
    state: version.state,
    from: version.from,
    note: version.note,
    recipe: version.recipe,
    begunAt: version.begunAt,
    capturedAt: found?.capturedAt ?? null,
    sites: version.sites.map((site) => ({
      site,
      name: sites.get(site)?.name ?? site,
      there: at(version, site) !== undefined,
    })),
    machine: version.machine,
    keepUntil: version.keepUntil,
    gib: found?.gib ?? 0,
    programs: found?.programs ?? [],
    recipeChanges: previous ? compareRecipes(previous.recipe, version.recipe) : [],
    programChanges: found && old ? comparePrograms(old.programs, found.programs) : [],
    uses: own
      .filter((one) => reach.has(one.customer))
      .map(({ customer, environment, environmentId, pool, hosts }) => ({
        customer,
        environment,
        environmentId,
        pool,
        hosts,
      })),
    otherHosts: own.filter((one) => !reach.has(one.customer)).reduce((all, one) => all + one.hosts, 0),
  };
}

/** @param card what its owner is charged by; undefined: what the provider asks */
function storedAt(
  standing: readonly StandingVersion[],
  card: ProviderPrices | 'none' | undefined,
  { sites, prices, now }: Ground,
): MadeImage['stored'] {
  return [...new Set(standing.map((one) => one.site))].sort().map((site) => {
    const gib = standing.filter((one) => one.site === site).reduce((all, one) => all + one.gib, 0);
    const { name = site, provider = '' } = sites.get(site) ?? {};
    return { site, name, gib, monthly: storing(gib, priceOf(card, prices.get(provider)), now) };
  });
}

const priceOf = (
  card: ProviderPrices | 'none' | undefined,
  asked: ProviderPrices | undefined,
): ProviderPrices | undefined => (card === 'none' ? undefined : (card ?? asked));

function storing(gib: number, prices: ProviderPrices | undefined, now: number): Money | null {
  if (!prices) return null;
  const needs = [{ meter: 'image', size: null, quantity: gib }];
  const { lines, unpriced } = monthlyCost(needs, prices.rates, now, prices.currency);
  if (unpriced.length > 0) return null;
  return sum(
    lines.map((one) => one.amount),
    prices.currency,
  );
}
