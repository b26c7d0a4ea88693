import type { Month, Period } from '../calendar';
import { priced, sum, type Money } from '../money';
import { rateFor, secondsPerUnit, unitOf, type Meter, type Rate } from './rates';

/** A quantity used: `amount` is quantity × whole seconds (GiB-seconds for a disk), within one stretch of even rates. */
export interface Usage {
  readonly pool: string;
  readonly meter: Meter;
  readonly size: string | null;
  readonly stretch: Period;
  readonly amount: number;
}

export interface ChargeLine {
  readonly pool: string;
  readonly meter: Meter;
  readonly size: string | null;
  readonly stretch: Period;
  /** In `unit`s, to four places, for reading; the charge is made from the seconds. */
  readonly quantity: number;
  readonly unit: string;
  readonly price: string;
  readonly charge: Money;
}

export interface Charges {
  readonly lines: readonly ChargeLine[];
  readonly total: Money;
  /** Usage for which no rate holds: nothing is charged for it, and someone must be told. */
  readonly unpriced: readonly Usage[];
}

/** Usage × rates → charges. Each line is rounded once; the total is the sum of the lines. */
export function charge(
  usage: readonly Usage[],
  rates: readonly Rate[],
  month: Month,
  currency: string,
): Charges {
  const lines: ChargeLine[] = [];
  const unpriced: Usage[] = [];
  for (const used of usage) {
    if (used.amount === 0) continue;
    const rate = rateFor(rates, used.meter, used.size, used.stretch.from);
    if (!rate) {
      unpriced.push(used);
      continue;
    }
    const per = secondsPerUnit(rate.unit, month);
    lines.push({
      pool: used.pool,
      meter: used.meter,
      size: used.size,
      stretch: used.stretch,
      quantity: Math.round((used.amount / per) * 10_000) / 10_000,
      unit: unitOf(used.meter),
      price: rate.price,
      charge: priced(rate.price, used.amount, per, currency),
    });
  }
  return {
    lines,
    total: sum(
      lines.map((line) => line.charge),
      currency,
    ),
    unpriced,
  };
}
