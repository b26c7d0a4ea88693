import { DateTime } from 'luxon';
import type { MeasuredPool, Sizing } from '../../contract';
import { DAY } from '../../core/calendar';
import type { PoolIntent } from '../../core/intent';
import { sum, type Money } from '../../core/money';
import { monthlyCost, type Rate } from '../../core/rating';
import { judgePool, needsWith } from '../../core/sizing';
import type { CustomerScope } from '../access';
import type { App } from '../app';
import { sql } from '../db';
import { notFound } from '../problem';
import { ratesOf } from '../pricing';
import { sitesInShort } from '../sites';
import { readNeeds } from './needs';
import { peaksOf, type Peak } from './peaks';
import { intentsWhere } from '../intents';

/** So far back it is looked at what was measured: two whole weeks. */
const LOOKED_AT_DAYS = 14;
const HOURS_A_WEEK = 168;

/** What sizing goes by at a customer: sizes and rates, what work takes, and what was measured. @throws Problem 404 */
export async function readSizing(app: App, scope: CustomerScope): Promise<Sizing> {
  const { db } = app;
  const now = app.clock.now();
  const customer = await db.row<{ currency: string; card: string | null; zone: string; people: number }>(
    `SELECT c.currency, c.card_code AS card, c.zone,
       (SELECT COUNT(*) FROM person p WHERE p.customer_id = c.id AND p.left_at IS NULL) AS people FROM customer c WHERE c.id = ?`,
    [scope.customer.id],
  );
  if (!customer) throw notFound('customer');
  const { card, ...about } = customer;
  const rates = card === null ? [] : await ratesOf(db, card);
  const [environments, peaks, needs, sites] = await Promise.all([
    intentsWhere(
      db,
      sql`e.customer_id = ${scope.customer.id} AND e.wanted = 'serving' AND e.holds = 'desktops'`,
    ),
    peaksOf(db, scope, now - LOOKED_AT_DAYS * DAY),
    readNeeds(db, scope),
    sitesInShort(db),
  ]);
  return {
    ...about,
    now,
    rates,
    sites,
    needs: Object.values(needsWith(needs)),
    pools: environments.flatMap(({ environment: id, name, intent }) =>
      intent.pools.map((pool): MeasuredPool => {
        const own = peaks.filter((one) => one.environment === id && one.pool === pool.role);
        const peak = own.length === 0 ? null : Math.max(...own.map((one) => one.most));
        const judged = judgePool({
          hosts: pool.hosts.length,
          seats: pool.seats,
          peak: peak ?? 0,
          mostSeats: pool.mostSeats,
        });
        return {
          environment: name,
          environmentId: id,
          pool: pool.role,
          profile: pool.profile,
          size: pool.size,
          seats: pool.seats,
          hosts: pool.hosts.length,
          people: pool.people,
          monthly: monthlyEach(pool, rates, now, about.currency),
          peak,
          verdict: peak === null ? null : judged.verdict,
          needed: judged.needed,
          week: weekOf(own, about.zone),
        };
      }),
    ),
  };
}

function monthlyEach(
  { size, diskGiB }: PoolIntent,
  rates: readonly Rate[],
  now: number,
  currency: string,
): Money | null {
  const needs = [
    { meter: 'host', size, quantity: 1 },
    { meter: 'disk', size: null, quantity: diskGiB },
  ];
  const { lines, unpriced } = monthlyCost(needs, rates, now, currency);
  return unpriced.length > 0
    ? null
    : sum(
        lines.map((one) => one.amount),
        currency,
      );
}

/** The most in each hour of the week, as the customer's people count hours. */
function weekOf(peaks: readonly Peak[], zone: string): (number | null)[] {
  const week = Array.from({ length: HOURS_A_WEEK }, (): number | null => null);
  for (const { at, most } of peaks) {
    const { weekday, hour } = DateTime.fromMillis(at, { zone });
    const index = (weekday - 1) * 24 + hour;
    week[index] = Math.max(week[index] ?? 0, most);
  }
  return week;
}
