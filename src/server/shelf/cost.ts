import { monthOf, type Instant } from '../../core/calendar';
import type { PoolIntent } from '../../core/intent';
import { priced, sum, type Money } from '../../core/money';
import { charge, cutsAt, monthlyCost, type Rate } from '../../core/rating';
import { MSP, systemScope } from '../access';
import type { Connection } from '../db';
import { usageBy } from '../metering';
import { ratesOfProviders } from '../providers';

/** What a site's provider asks, at all times. */
export interface SitePrices {
  readonly currency: string;
  readonly rates: readonly Rate[];
}

export async function pricesAt(db: Connection, site: string): Promise<SitePrices | undefined> {
  const row = await db.row<{ provider: string }>(
    'SELECT provider_code AS provider FROM site WHERE code = ?',
    [site],
  );
  return (await ratesOfProviders(db)).get(row?.provider ?? '');
}

/** What one host of a shelf costs a month; undefined where some of it has no price. */
export function costOfOne(
  { size, diskGiB }: Pick<PoolIntent, 'size' | 'diskGiB'>,
  prices: SitePrices | undefined,
  now: Instant,
): Money | undefined {
  if (!prices) return undefined;
  const needs = [
    { meter: 'host', size, quantity: 1 },
    { meter: 'disk', size: null, quantity: diskGiB },
  ];
  const { lines, unpriced } = monthlyCost(needs, prices.rates, now, prices.currency);
  return unpriced.length > 0
    ? undefined
    : sum(
        lines.map((line) => line.amount),
        prices.currency,
      );
}

/** How many hosts a budget reaches for; undefined: it has no limit, or nothing has a price to hold it against. */
export function affordedBy(
  most: string | null,
  pool: Pick<PoolIntent, 'size' | 'diskGiB'>,
  prices: SitePrices | undefined,
  now: Instant,
): number | undefined {
  const each = costOfOne(pool, prices, now);
  if (most === null || !each || each.minor <= 0) return undefined;
  return Math.floor(priced(most, 1, 1, each.currency).minor / each.minor);
}

/** What a shelf has cost this month until now: by the second, until each of its hosts was handed over. */
export async function costSoFar(
  db: Connection,
  environment: string,
  prices: SitePrices | undefined,
  now: Instant,
): Promise<Money | undefined> {
  if (!prices) return undefined;
  const month = monthOf(now, 'UTC');
  const stretches = cutsAt(month, prices.rates, now);
  const usage = await usageBy(db, systemScope(MSP), 'pool', { stretches, environmentId: environment });
  return charge(usage, prices.rates, month, prices.currency).total;
}
