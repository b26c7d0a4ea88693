import type { Month, Period } from '../calendar';
import { priced, sum, weightOf, type Money } from '../money';
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
  /** Usage for which no rate holds, by its kind: nothing is charged for it, and someone must be told. */
  readonly unpriced: readonly Usage[];
}

/** Usage of one kind under one rate, which may span several stretches: a line to be. */
interface Gathered {
  readonly used: Usage;
  readonly rate: Rate;
  amount: number;
  to: number;
}

/**
 * Usage × rates → charges. What one rate holds for is one line, however many stretches it was cut into; each line is
 * rounded once, and the total is the sum of the lines.
 * @param usage in order of time within each kind
 */
export function charge(
  usage: readonly Usage[],
  rates: readonly Rate[],
  month: Month,
  currency: string,
): Charges {
  const gathered = new Map<string, Gathered>();
  const unpriced = new Map<string, Usage>();
  for (const used of usage) {
    if (used.amount === 0) continue;
    const rate = rateFor(rates, used.meter, used.size, used.stretch.from);
    const kind = `${used.pool} ${used.meter} ${used.size ?? ''}`;
    if (!rate) {
      const before = unpriced.get(kind);
      unpriced.set(kind, before ? { ...before, amount: before.amount + used.amount } : used);
      continue;
    }
    const key = `${kind} ${rates.indexOf(rate)}`;
    const known = gathered.get(key);
    if (!known) gathered.set(key, { used, rate, amount: used.amount, to: used.stretch.to });
    else Object.assign(known, { amount: known.amount + used.amount, to: used.stretch.to });
  }
  const lines = [...gathered.values()].map((one) => lineOf(one, month, currency));
  return {
    lines,
    total: sum(
      lines.map((line) => line.charge),
      currency,
    ),
    unpriced: [...unpriced.values()],
  };
}

function lineOf({ used, rate, amount, to }: Gathered, month: Month, currency: string): ChargeLine {
  const per = secondsPerUnit(rate.unit, month);
  return {
    pool: used.pool,
    meter: used.meter,
    size: used.size,
    stretch: { from: used.stretch.from, to },
    quantity: Math.round((amount / per) * 10_000) / 10_000,
    unit: unitOf(rate),
    price: rate.price,
    charge: priced(rate.price, amount, per, currency),
  };
}

/**
 * How much of a total some of its usage is, in millionths of the minor unit: what was rounded once is shared out by it, so
 * that every view of a month adds up to the same.
 */
export const weigh = (
  usage: readonly Usage[],
  rates: readonly Rate[],
  month: Month,
  currency: string,
): number =>
  usage.reduce((total, { meter, size, stretch, amount }) => {
    const rate = rateFor(rates, meter, size, stretch.from);
    return rate ? total + weightOf(rate.price, amount, secondsPerUnit(rate.unit, month), currency) : total;
  }, 0);
