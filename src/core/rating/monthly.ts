import type { Instant } from '../calendar';
import { priced, type Money } from '../money';
import { HOURS_A_MONTH, rateFor, unitOf, type Meter, type Rate } from './rates';

export interface MeterNeed {
  readonly meter: Meter;
  readonly size: string | null;
  /** Hosts, GiB or seats. */
  readonly quantity: number;
}

export interface CostLine extends MeterNeed {
  readonly unit: string;
  readonly price: string;
  readonly amount: Money;
}

/** What needs would cost in an average month, always on, at the rates of `at`. Needs without a rate are named. */
export function monthlyCost(
  needs: readonly MeterNeed[],
  rates: readonly Rate[],
  at: Instant,
  currency: string,
): { readonly lines: readonly CostLine[]; readonly unpriced: readonly MeterNeed[] } {
  const lines: CostLine[] = [];
  const unpriced: MeterNeed[] = [];
  for (const need of needs) {
    const rate = rateFor(rates, need.meter, need.size, at);
    if (!rate) {
      unpriced.push(need);
      continue;
    }
    const units = rate.unit === 'hour' ? need.quantity * HOURS_A_MONTH : need.quantity;
    lines.push({
      ...need,
      unit: unitOf(rate),
      price: rate.price,
      amount: priced(rate.price, units, 1, currency),
    });
  }
  return { lines, unpriced };
}
