import type { MonthCosts } from '../../contract';
import { cutsAt, charge, type Charges, type Rate } from '../../core/rating';
import { daysOf, DAY, monthNamed, monthOf, type Day, type Instant, type Month } from '../../core/calendar';
import { forecastMonth, type DayCost } from '../../core/forecast';
import { sum, type Money } from '../../core/money';
import type { CustomerScope } from '../access';
import type { App } from '../app';
import type { Connection } from '../db';
import { ratesOf } from '../pricing';
import { openRefs, usageBy } from '../metering';
import { notFound, Problem } from '../problem';

export type { DayCost };

interface Terms {
  readonly zone: string;
  readonly currency: string;
  readonly rates: readonly Rate[];
}

async function termsOf(connection: Connection, scope: CustomerScope): Promise<Terms> {
  const row = await connection.row<{ zone: string; currency: string; card_code: string }>(
    'SELECT zone, currency, card_code FROM customer WHERE id = ?',
    [scope.customer.id],
  );
  if (!row) throw notFound('customer');
  return { zone: row.zone, currency: row.currency, rates: await ratesOf(connection, row.card_code) };
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
  const days = await dayCosts(connection, scope, terms, month, now);
  const names = await poolNames(connection, scope);
  return {
    month: month.key,
    zone: terms.zone,
    from: month.from,
    to: Math.max(month.from, Math.min(month.to, now)),
    total: charges.total,
    forecast: forecastMonth(charges.total, days.past, month, now),
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
 * @param known the whole days before, as an earlier call returned them; undefined: they are reckoned
 */
export async function monthInShort(
  connection: Connection,
  scope: CustomerScope,
  now: Instant,
  known: readonly DayCost[] | undefined,
): Promise<{ soFar: Money; forecast: Money; unpriced: number; past: readonly DayCost[] }> {
  const terms = await termsOf(connection, scope);
  const month = monthOf(now, terms.zone);
  const charges = await chargesOf(connection, scope, month, terms, now);
  const past = known ?? (await dayCosts(connection, scope, terms, month, now)).past;
  return {
    soFar: charges.total,
    forecast: forecastMonth(charges.total, past, month, now),
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
  const usage = await usageBy(connection, scope, 'pool', { stretches: cutsAt(month, terms.rates, now) });
  return charge(usage, terms.rates, month, terms.currency);
}

const PAST_DAYS = 28;

/** What each day cost: the month's days up to now, and the whole days of the last four weeks for the forecast. */
async function dayCosts(
  connection: Connection,
  scope: CustomerScope,
  terms: Terms,
  month: Month,
  now: Instant,
): Promise<{ month: DayCost[]; past: DayCost[] }> {
  const until = Math.min(now, month.to);
  const from = Math.min(month.from, until - PAST_DAYS * DAY);
  if (until <= from) return { month: [], past: [] };
  const days = daysOf({ from, to: until }, terms.zone);
  const cuts = days.flatMap((day) =>
    cutsAt({ ...day, key: day.date, zone: terms.zone }, terms.rates, until).map((stretch) => ({
      day,
      stretch,
    })),
  );
  const usage = await usageBy(connection, scope, 'pool', { stretches: cuts.map((cut) => cut.stretch) });
  const costs = days.map((day): DayCost => {
    const own = usage.filter((used) => used.stretch.from >= day.from && used.stretch.to <= day.to);
    const { lines } = charge(own, terms.rates, monthOf(day.from, terms.zone), terms.currency);
    return {
      ...day,
      cost: sum(
        lines.map((line) => line.charge),
        terms.currency,
      ),
    };
  });
  const first = await connection.row<{ first: number | null }>(
    'SELECT MIN(from_at) AS first FROM meter_interval WHERE customer_id = ?',
    [scope.customer.id],
  );
  return {
    month: costs.filter((day) => inside(day, month)),
    past: costs.filter((day) => counts(day, first?.first ?? now, until)),
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

/** What each resource of an environment was charged in a month, and which are still metered. */
export async function resourceCharges(
  app: App,
  scope: CustomerScope,
  environmentId: string,
  month: Month,
): Promise<{ byRef: Map<string, Money>; total: Money; open: Set<string> }> {
  const terms = await termsOf(app.db, scope);
  const stretches = cutsAt(month, terms.rates, app.clock.now());
  const usage = await usageBy(app.db, scope, 'resource', { stretches, environmentId });
  const { lines, total } = charge(usage, terms.rates, month, terms.currency);
  const byRef = new Map<string, Money>();
  for (const line of lines) {
    const before = byRef.get(line.pool);
    byRef.set(line.pool, before ? sum([before, line.charge], terms.currency) : line.charge);
  }
  return { byRef, total, open: await openRefs(app.db, scope, environmentId) };
}
