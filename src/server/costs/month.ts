import type { MonthCosts } from '../../contract';
import {
  cutsAt,
  edgesOfIncluded,
  charge,
  takenOff,
  weigh,
  type Charges,
  type Meter,
  type Rate,
  type Usage,
} from '../../core/rating';
import {
  daysOf,
  DAY,
  monthNamed,
  monthOf,
  type Day,
  type Instant,
  type Month,
  type Period,
} from '../../core/calendar';
import { forecastMonth, type DayCost } from '../../core/forecast';
import { money, nothing, share, sum, type Money } from '../../core/money';
import type { CustomerScope } from '../access';
import type { App } from '../app';
import type { Connection } from '../db';
import { planFees, type PlanFees } from '../plans';
import { ratesOf } from '../pricing';
import { openRefs, usageBy } from '../metering';
import { notFound, Problem } from '../problem';

interface Terms {
  readonly zone: string;
  readonly currency: string;
  /** Those of its card and of its plans. */
  readonly rates: readonly Rate[];
  readonly fees: PlanFees;
}

async function termsOf(connection: Connection, scope: CustomerScope): Promise<Terms> {
  const row = await connection.row<{ zone: string; currency: string; card_code: string }>(
    'SELECT zone, currency, card_code FROM customer WHERE id = ?',
    [scope.customer.id],
  );
  if (!row) throw notFound('customer');
  const fees = await planFees(connection, scope, row.currency);
  return {
    zone: row.zone,
    currency: row.currency,
    rates: [...(await ratesOf(connection, row.card_code)), ...fees.rates],
    fees,
  };
}

/**
 * A customer's month: its charge lines, the total so far, what it will be at its end, and each day's part.
 * @param key `2026-11`; undefined: the month that it is now in the customer's zone
 */
export async function monthCosts(
  app: App,
  connection: Connection,
  scope: CustomerScope,
  key: string | undefined,
): Promise<MonthCosts> {
  const terms = await termsOf(connection, scope);
  const now = app.clock.now();
  const month = key === undefined ? monthOf(now, terms.zone) : monthNamed(key, terms.zone);
  if (!month)
    throw new Problem(422, 'month', 'The month cannot be read.', {
      fields: { month: 'write it like 2026-11' },
    });
  const charges = await chargesOf(connection, scope, month, terms, now);
  const days = await dayCosts(connection, scope, terms, month, now, charges.total);
  const names = await poolNames(connection, scope);
  return {
    month: month.key,
    zone: terms.zone,
    from: month.from,
    to: Math.max(month.from, Math.min(month.to, now)),
    total: charges.total,
    forecast: forecastOf(charges, terms, month, days, now),
    unpriced: charges.unpriced.length,
    days: days.month.map((day) => ({ date: day.date, cost: day.cost, whole: day.to <= now })),
    lines: charges.lines.map((line) => ({
      ...names(line.pool),
      meter: line.meter,
      size: line.size,
      from: line.stretch.from,
      to: line.stretch.to,
      quantity: line.quantity,
      unit: line.unit,
      price: line.price,
      charge: line.charge,
    })),
  };
}

/** The months in which the customer had anything, newest first; always the present one. */
export async function monthsOf(app: App, scope: CustomerScope): Promise<string[]> {
  const { zone } = await termsOf(app.db, scope);
  const row = await app.db.row<{ first: number | null }>(
    'SELECT MIN(from_at) AS first FROM meter_interval WHERE customer_id = ?',
    [scope.customer.id],
  );
  const now = monthOf(app.clock.now(), zone);
  const first = monthOf(row?.first ?? app.clock.now(), zone);
  const months = [now.key];
  for (let month = now; month.from > first.from;) {
    month = monthOf(month.from - 1, zone);
    months.push(month.key);
  }
  return months;
}

/**
 * The total so far and the forecast of the present month; for the summary.
 * @param known the days before, as an earlier call returned them; undefined, or of another month: they are reckoned
 */
export async function monthInShort(
  connection: Connection,
  scope: CustomerScope,
  now: Instant,
  known: PastDays | undefined,
): Promise<{ soFar: Money; forecast: Money; unpriced: number; past: PastDays }> {
  const terms = await termsOf(connection, scope);
  const month = monthOf(now, terms.zone);
  const charges = await chargesOf(connection, scope, month, terms, now);
  const past = known?.month === month.key ? known : await pastDays(connection, scope, terms, month, now);
  return {
    soFar: charges.total,
    forecast: forecastOf(charges, terms, month, past, now),
    unpriced: charges.unpriced.length,
    past,
  };
}

async function chargesOf(
  connection: Connection,
  scope: CustomerScope,
  month: Month,
  terms: Terms,
  now: Instant,
): Promise<Charges> {
  const stretches = cutsAt(month, terms.rates, now, edgesOfIncluded(terms.fees.included));
  const usage = await paidUsage(connection, scope, terms, [stretches]);
  return charge([...usage, ...terms.fees.usage(stretches)], terms.rates, month, terms.currency);
}

/** What was used, and what of it is in the plan's fee, taken off again. */
async function paidUsage(
  connection: Connection,
  scope: CustomerScope,
  { rates, fees }: Terms,
  /** The stretches of each month by itself: what is included belongs to the month's use. */
  months: readonly (readonly Period[])[],
): Promise<Usage[]> {
  const usage = await usageBy(connection, scope, 'pool', { stretches: months.flat() });
  return [
    ...usage,
    ...months.flatMap((month) => {
      const first = month[0]?.from ?? 0;
      const last = month.at(-1)?.to ?? 0;
      const own = usage.filter(({ stretch }) => stretch.from >= first && stretch.to <= last);
      return takenOff(own, rates, fees.included);
    }),
  ];
}

/** What has run goes on as it did; what the plan costs is known to the month's end. */
function forecastOf(
  { total, lines }: Charges,
  { fees, rates, currency }: Terms,
  month: Month,
  { past, since }: Omit<PastDays, 'month'>,
  now: Instant,
): Money {
  const isFee = ({ meter }: { meter: string }): boolean => meter === fees.meter;
  const paid = sum(
    lines.filter(isFee).map((line) => line.charge),
    currency,
  );
  const due = charge(fees.usage(cutsAt(month, rates, month.to)), rates, month, currency).total;
  const used = money(total.minor - paid.minor, currency);
  return sum([forecastMonth(used, past, month, now, since), due], currency);
}

async function pastDays(
  connection: Connection,
  scope: CustomerScope,
  terms: Terms,
  month: Month,
  now: Instant,
): Promise<PastDays> {
  const { past, since } = await dayCosts(connection, scope, terms, month, now, nothing(terms.currency));
  return { month: month.key, past, since };
}

const PAST_DAYS = 28;

/** What days cost that are over, at the length of one month. */
export interface PastDays {
  readonly month: string;
  readonly past: readonly DayCost[];
  /** When the customer had anything first. */
  readonly since: Instant;
}

/**
 * What each day cost: the month's days up to now, which add up to its total, and the whole days of the last four weeks for
 * the forecast, at what they would have cost in this month.
 */
async function dayCosts(
  connection: Connection,
  scope: CustomerScope,
  terms: Terms,
  month: Month,
  now: Instant,
  total: Money,
): Promise<{ month: (Day & { readonly cost: Money })[] } & Omit<PastDays, 'month'>> {
  const until = Math.min(now, month.to);
  const from = Math.min(month.from, until - PAST_DAYS * DAY);
  const row = await connection.row<{ first: number | null }>(
    'SELECT MIN(from_at) AS first FROM meter_interval WHERE customer_id = ?',
    [scope.customer.id],
  );
  const since = row?.first ?? now;
  if (until <= from) return { month: [], past: [], since };
  const days = daysOf({ from, to: until }, terms.zone);
  const edges = edgesOfIncluded(terms.fees.included);
  const cutsOf = (of: readonly Day[]): Period[] =>
    of.flatMap((day) => cutsAt({ ...day, key: day.date, zone: terms.zone }, terms.rates, until, edges));
  const before = cutsOf(days.filter((day) => !inside(day, month)));
  const within = cutsOf(days.filter((day) => inside(day, month)));
  const cuts = [...before, ...within];
  const usage = await paidUsage(connection, scope, terms, [before, within]);
  const fees = terms.fees.usage(cuts);
  // What is taken off is rounded by itself: of a day on which all is included it may leave less than nothing.
  const weightOf = (day: Day, used: readonly Usage[]): number =>
    Math.max(
      0,
      weigh(
        used.filter(({ stretch }) => stretch.from >= day.from && stretch.to <= day.to),
        terms.rates,
        month,
        terms.currency,
      ),
    );
  const weighed = days.map((day) => ({ day, weight: weightOf(day, usage), fee: weightOf(day, fees) }));
  const own = weighed.filter(({ day }) => inside(day, month));
  const shares =
    own.length === 0
      ? []
      : share(
          total,
          own.map(({ weight, fee }) => weight + fee),
        );
  return {
    month: own.map(({ day }, index) => ({ ...day, cost: shares[index] ?? money(0, terms.currency) })),
    past: weighed
      .filter(({ day }) => counts(day, since, until))
      .map(({ day, weight }) => ({ ...day, minor: weight / 1e6 })),
    since,
  };
}

const inside = (day: Day, month: Month): boolean => day.from >= month.from && day.from < month.to;

/** Days before the customer had anything say nothing about the days to come. */
const counts = (day: Day, first: Instant, until: Instant): boolean =>
  day.from >= first && day.to <= until && day.from >= until - (PAST_DAYS + 1) * DAY;

/** What usage is grouped by, in words: the names of the environment and of the pool. */
async function poolNames(
  connection: Connection,
  scope: CustomerScope,
): Promise<(key: string) => { environment: string; pool: string }> {
  const rows = await connection.rows<{ id: string; name: string }>(
    'SELECT id, name FROM environment WHERE customer_id = ?',
    [scope.customer.id],
  );
  const names = new Map(rows.map((row) => [row.id, row.name]));
  return (key) => {
    const [environment = '', pool = ''] = key.split('/');
    return { environment: names.get(environment) ?? '', pool };
  };
}

/** A pool's part of a month, and what of it each resource weighs, by its name at the provider. */
export interface PoolCharges {
  readonly environmentId: string;
  readonly environment: string;
  readonly pool: string;
  readonly lines: readonly { readonly meter: Meter; readonly charge: Money }[];
}

/** The present month of a customer's pools, up to now; and what a resource weighs in it. */
export async function poolCharges(
  app: App,
  scope: CustomerScope,
): Promise<{
  readonly month: Month;
  readonly currency: string;
  readonly until: Instant;
  readonly pools: readonly PoolCharges[];
  readonly weights: (environmentId: string) => Promise<ReadonlyMap<string, number>>;
}> {
  const terms = await termsOf(app.db, scope);
  const { rates, currency } = terms;
  const until = app.clock.now();
  const month = monthOf(until, terms.zone);
  const { lines } = await chargesOf(app.db, scope, month, terms, until);
  const names = await poolNames(app.db, scope);
  const keys = [...new Set(lines.map(({ pool }) => pool))].filter((key) => names(key).environment !== '');
  return {
    month,
    currency,
    until,
    pools: keys.map((key) => ({
      environmentId: key.split('/')[0] ?? '',
      ...names(key),
      lines: lines.filter(({ pool }) => pool === key),
    })),
    weights: async (environmentId) => {
      const stretches = cutsAt(month, rates, until);
      const usage = await usageBy(app.db, scope, 'resource', { stretches, environmentId });
      const weights = new Map<string, number>();
      for (const used of usage)
        weights.set(used.pool, (weights.get(used.pool) ?? 0) + weigh([used], rates, month, currency));
      return weights;
    },
  };
}

/**
 * What an environment was charged in a month, as its lines of the statement add up to; what of it is each resource's; and
 * which are still metered.
 */
export async function resourceCharges(
  app: App,
  scope: CustomerScope,
  environmentId: string,
  month: Month,
): Promise<{ byRef: Map<string, Money>; total: Money; open: Set<string> }> {
  const terms = await termsOf(app.db, scope);
  const now = app.clock.now();
  const { lines } = await chargesOf(app.db, scope, month, terms, now);
  const total = sum(
    lines.filter((line) => line.pool.startsWith(`${environmentId}/`)).map((line) => line.charge),
    terms.currency,
  );
  const stretches = cutsAt(month, terms.rates, now);
  const usage = await usageBy(app.db, scope, 'resource', { stretches, environmentId });
  const refs = [...new Set(usage.map((used) => used.pool))];
  const weights = refs.map((ref) =>
    weigh(
      usage.filter((used) => used.pool === ref),
      terms.rates,
      month,
      terms.currency,
    ),
  );
  const shares = refs.length === 0 ? [] : share(total, weights);
  return {
    byRef: new Map(refs.map((ref, index) => [ref, shares[index] ?? money(0, terms.currency)])),
    total,
    open: await openRefs(app.db, scope, environmentId),
  };
}
