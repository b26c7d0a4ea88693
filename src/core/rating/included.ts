import type { Instant, Period } from '../calendar';
import { rateFor, type Meter, type Rate } from './rates';
import type { Usage } from './charge';
import type { MeterNeed } from './monthly';

/** So much of what is metered is in a plan's fee, all month long: GiB or seats. */
export interface Included {
  readonly meter: Meter;
  readonly quantity: number;
}

/** What is included from one instant to another, and what it is named by on a statement. */
export interface IncludedWhile {
  readonly name: string;
  readonly included: readonly Included[];
  readonly from: Instant;
  /** Null: until further notice. */
  readonly to: Instant | null;
}

/** What of a quantity is beyond what is included. */
export const beyond = (included: readonly Included[], meter: Meter, quantity: number): number =>
  Math.max(0, quantity - (included.find((one) => one.meter === meter)?.quantity ?? 0));

/** What of needs is beyond what is included: things that have one price for all sizes are added up for it. */
export function paidNeeds(needs: readonly MeterNeed[], included: readonly Included[]): MeterNeed[] {
  const whole = needs.filter(({ size }) => size === null);
  const total = (meter: Meter): number =>
    whole.filter((one) => one.meter === meter).reduce((sum, one) => sum + one.quantity, 0);
  return [
    ...needs.filter(({ size }) => size !== null),
    ...[...new Set(whole.map(({ meter }) => meter))].map((meter) => ({
      meter,
      size: null,
      quantity: beyond(included, meter, total(meter)),
    })),
  ];
}

/**
 * What of usage is in the fee, as usage that takes it off again: in each stretch as much as is included while it lasts, and
 * no more than was used. Amounts are below 0. What has no rate is taken off nothing.
 */
export function takenOff(
  usage: readonly Usage[],
  rates: readonly Rate[],
  stays: readonly IncludedWhile[],
): Usage[] {
  const stretches = [
    ...new Map(usage.map(({ stretch }) => [`${stretch.from} ${stretch.to}`, stretch])).values(),
  ];
  return stretches.flatMap((stretch) =>
    stays.flatMap(({ name, included, from, to }) =>
      included.flatMap(({ meter, quantity }) => {
        if (!rateFor(rates, meter, null, stretch.from)) return [];
        const used = usage
          .filter((one) => one.meter === meter && isSame(one.stretch, stretch))
          .reduce((sum, one) => sum + one.amount, 0);
        const amount = Math.min(used, quantity * secondsWithin(stretch, from, to ?? Infinity));
        return amount > 0 ? [{ pool: '', meter, size: name, stretch, amount: -amount }] : [];
      }),
    ),
  );
}

const isSame = (a: Period, b: Period): boolean => a.from === b.from && a.to === b.to;

/** Whole seconds of a stretch within bounds; both are cut at whole seconds, so that what is beside adds up. */
export const secondsWithin = (stretch: Period, from: Instant, to: Instant): number =>
  Math.max(
    0,
    Math.floor(Math.min(stretch.to, to) / 1_000) - Math.floor(Math.max(stretch.from, from) / 1_000),
  );
