import { monthOf } from '../src/core/calendar';
import { charge, cutsAt } from '../src/core/rating';
import { systemScope } from '../src/server/access';
import type { App } from '../src/server/app';
import { ratesOf } from '../src/server/pricing';
import { usageBy } from '../src/server/metering';

const MOST_TIMES = 3;
/** Customers rated at a time, as the worker does. */
const AT_ONCE = 4;

/** Rating a month of the whole fleet, customer by customer as statements are made, against one SUM of the same rows. */
export async function ratingBench(app: App): Promise<void> {
  const now = app.clock.now();
  const month = monthOf(now, 'UTC');
  const rates = await ratesOf(app.db, 'eur');
  const cuts = cutsAt(month, rates, now);
  const customers = await app.db.rows<{ id: string; code: string }>(
    "SELECT id, code FROM customer WHERE kind = 'customer'",
  );
  const reference = async (): Promise<number> => {
    const began = performance.now();
    await app.db.row(
      `SELECT SUM(quantity * ((LEAST(IFNULL(to_at, ?), ?) - GREATEST(from_at, ?)) DIV 1000)) AS total FROM meter_interval
       WHERE (to_at IS NULL OR to_at > ?) AND from_at < ?`,
      [now, now, month.from, month.from, now],
    );
    return performance.now() - began;
  };
  const rated = async (): Promise<number> => {
    const began = performance.now();
    let lines = 0;
    const waiting = [...customers];
    const rateThem = async (): Promise<void> => {
      for (let customer = waiting.pop(); customer; customer = waiting.pop()) {
        const usage = await usageBy(app.db, systemScope(customer), 'pool', { stretches: cuts });
        lines += charge(usage, rates, month, 'EUR').lines.length;
      }
    };
    await Promise.all(Array.from({ length: AT_ONCE }, rateThem));
    if (lines < customers.length) throw new Error(`${lines} charge lines for ${customers.length} customers`);
    return performance.now() - began;
  };
  await reference();
  const sums = [await reference(), await reference(), await reference()].sort((a, b) => a - b);
  const ratings = [await rated(), await rated(), await rated()].sort((a, b) => a - b);
  const [sum, rating] = [sums[1] ?? Number.NaN, ratings[1] ?? Number.NaN];
  const times = rating / sum;
  console.log(
    `rating one month of the fleet: ${Math.round(rating)} ms; MariaDB's SUM of the same rows ${Math.round(sum)} ms; ` +
      `ratio ${times.toFixed(2)} (target at most ${MOST_TIMES}) ${times <= MOST_TIMES ? 'met' : 'MISSED'}`,
  );
}
