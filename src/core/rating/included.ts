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
 * What of a month's use is in the fee, as usage that takes it off again: for as long as something is included it is so much
 * of all that is used in that time together, first come first served, and no more than was used. What is left over at its
 * beginning is had later. Amounts are below 0. What has no rate is taken off nothing.
 * @param usage of one month, in stretches that are cut where what is included changes
 */
export function takenOff(
  usage: readonly Usage[],
  rates: readonly Rate[],
  stays: readonly IncludedWhile[],
): Usage[] {
  const stretches = [
    ...new Map(usage.map(({ stretch }) => [keyOf(stretch), stretch] as const)).values(),
  ].sort((a, b) => a.from - b.from);
  const left = new Map<string, number>();
  for (const { meter, stretch, amount } of usage)
    left.set(`${meter} ${keyOf(stretch)}`, (left.get(`${meter} ${keyOf(stretch)}`) ?? 0) + amount);
  return stays.flatMap(({ name, included, from, to }) =>
    included.flatMap(({ meter, quantity }) => {
      const own = stretches.filter(
        (stretch) =>
          secondsWithin(stretch, from, to ?? Infinity) > 0 &&
          rateFor(rates, meter, null, stretch.from) !== undefined,
      );
      let free = own.reduce((all, one) => all + quantity * secondsWithin(one, from, to ?? Infinity), 0);
      return own.flatMap((stretch): Usage[] => {
        const key = `${meter} ${keyOf(stretch)}`;
        const amount = Math.min(left.get(key) ?? 0, free);
        free -= amount;
        left.set(key, (left.get(key) ?? 0) - amount);
        return amount > 0 ? [{ pool: '', meter, size: name, stretch, amount: -amount }] : [];
      });
    }),
  );
}

/** Where what is included begins or ends to be so. */
export const edgesOfIncluded = (stays: readonly IncludedWhile[]): Instant[] =>
  stays.flatMap(({ from, to }) => (to === null ? [from] : [from, to]));

const keyOf = ({ from, to }: Period): string => `${from} ${to}`;

/** Whole seconds of a stretch within bounds; both are cut at whole seconds, so that what is beside adds up. */
export const secondsWithin = (stretch: Period, from: Instant, to: Instant): number =>
  Math.max(
    0,
    Math.floor(Math.min(stretch.to, to) / 1_000) - Math.floor(Math.max(stretch.from, from) / 1_000),
  );
