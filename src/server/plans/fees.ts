import type { Period } from '../../core/calendar';
import type { PlanFee } from '../../core/plans';
import { nothing, priced, type Money } from '../../core/money';
import type { Rate, Usage } from '../../core/rating';
import type { CustomerScope } from '../access';
import type { Connection } from '../db';
import type { Stay } from './held';

/** A customer's stays on plans, as they are charged: the meter, its rates, and the stays. */
export interface PlanFees {
  readonly meter: string;
  readonly rates: readonly Rate[];
  /** The stays, within stretches of even rates: one plan for as many seconds as it lasted. */
  usage(stretches: readonly Period[]): Usage[];
}

const METER = 'plan';

/** What a customer's plans cost: each stay by the second. A version that costs nothing in its currency is not charged. */
export async function planFees(db: Connection, scope: CustomerScope, currency: string): Promise<PlanFees> {
  const rows = await db.rows<Stay & { terms: string; retired: number | null }>(
    `SELECT s.plan_code AS plan, p.name, s.version, s.from_at AS \`from\`, v.terms, c.retired_at AS retired
     FROM customer_plan s JOIN plan p ON p.code = s.plan_code
     JOIN plan_version v ON v.plan_code = s.plan_code AND v.version = s.version
     JOIN customer c ON c.id = s.customer_id WHERE s.customer_id = ? ORDER BY s.from_at`,
    [scope.customer.id],
  );
  const stays = rows.flatMap((row, n) => {
    const { fees } = JSON.parse(row.terms) as { fees: readonly PlanFee[] };
    const price = fees.find((fee) => fee.currency === currency)?.monthly;
    // Who is gone pays no more.
    const ends = [rows[n + 1]?.from, row.retired].flatMap((at) => at ?? []);
    const to = ends.length === 0 ? null : Math.min(...ends);
    return price === undefined ? [] : [{ size: `${row.name} ${row.version}`, price, from: row.from, to }];
  });
  return {
    meter: METER,
    rates: stays.map(({ size, price, from, to }) => ({ meter: METER, size, unit: 'month', price, from, to })),
    usage: (stretches) =>
      stays.flatMap(({ size, from, to }) =>
        stretches.flatMap((stretch) => {
          const seconds = secondsWithin(stretch, from, to ?? Infinity);
          return seconds > 0 ? [{ pool: '', meter: METER, size, stretch, amount: seconds }] : [];
        }),
      ),
  };
}

/** Whole seconds of a stretch within bounds; both are cut at whole seconds, so that what is beside adds up. */
const secondsWithin = (stretch: Period, from: number, to: number): number =>
  Math.floor(Math.min(stretch.to, to) / 1_000) - Math.floor(Math.max(stretch.from, from) / 1_000);

/** What a customer's plan costs a month now; nothing where it is not sold in their currency. */
export async function planFeeNow(
  db: Connection,
  scope: CustomerScope,
  currency: string,
  now: number,
): Promise<Money> {
  const { rates } = await planFees(db, scope, currency);
  const rate = rates.find(({ from, to }) => from <= now && (to === null || now < to));
  return rate ? priced(rate.price, 1, 1, currency) : nothing(currency);
}
