import type { Period } from '../../core/calendar';
import type { PlanTerms } from '../../core/plans';
import { nothing, priced, type Money } from '../../core/money';
import { secondsWithin, type IncludedWhile, type Rate, type Usage } from '../../core/rating';
import type { CustomerScope } from '../access';
import type { Connection } from '../db';
import type { Stay } from './held';

/** A customer's stays on plans, as they are charged: the meter, its rates, and the stays. */
export interface PlanFees {
  readonly meter: string;
  readonly rates: readonly Rate[];
  /** What is in the fee while each of them lasts. */
  readonly included: readonly IncludedWhile[];
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
    const { fees, included } = JSON.parse(row.terms) as Pick<PlanTerms, 'fees' | 'included'>;
    const price = fees.find((fee) => fee.currency === currency)?.monthly;
    // Who is gone pays no more.
    const ends = [rows[n + 1]?.from, row.retired].flatMap((at) => at ?? []);
    const to = ends.length === 0 ? null : Math.min(...ends);
    return [{ size: `${row.name} ${row.version}`, price, included, from: row.from, to }];
  });
  const sold = stays.flatMap(({ price, ...stay }) => (price === undefined ? [] : [{ ...stay, price }]));
  return {
    meter: METER,
    // Also those that cost nothing: what is included is otherwise from one to the next.
    rates: stays.map(({ size, price = '0', from, to }) => ({
      meter: METER,
      size,
      unit: 'month',
      price,
      from,
      to,
    })),
    included: stays.map(({ size, included, from, to }) => ({ name: `in ${size}`, included, from, to })),
    usage: (stretches) =>
      sold.flatMap(({ size, from, to }) =>
        stretches.flatMap((stretch) => {
          const seconds = secondsWithin(stretch, from, to ?? Infinity);
          return seconds > 0 ? [{ pool: '', meter: METER, size, stretch, amount: seconds }] : [];
        }),
      ),
  };
}

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
