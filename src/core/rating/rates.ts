import type { Instant, Month, Period } from '../calendar';

/** What is metered: `host`, `disk`, `share`, `licence`, and what further kinds of resource name. */
export type Meter = string;

export const RATE_UNITS = ['hour', 'month'] as const;
export type RateUnit = (typeof RATE_UNITS)[number];

/** A price with a unit and dates. `price` is decimal text in major units of the card's currency. */
export interface Rate {
  readonly meter: Meter;
  /** Hosts have a price per size; null: it holds for every size. */
  readonly size: string | null;
  readonly unit: RateUnit;
  readonly price: string;
  readonly from: Instant;
  /** Null: until further notice. */
  readonly to: Instant | null;
}

/** Hours of an average month, for figures that are not about one month: 8760 / 12. */
export const HOURS_A_MONTH = 730;

/** What is metered and has a price without which nothing is built, whoever sells it to us or does not. */
export const METERED: readonly {
  readonly meter: Meter;
  readonly unit: RateUnit;
  /** What a quantity counts. */
  readonly counts: string;
  /** Whether each size has a price of its own. */
  readonly bySize: boolean;
}[] = [
  { meter: 'host', unit: 'hour', counts: 'host', bySize: true },
  { meter: 'disk', unit: 'month', counts: 'GiB', bySize: false },
  { meter: 'share', unit: 'month', counts: 'GiB', bySize: false },
  { meter: 'image', unit: 'month', counts: 'GiB', bySize: false },
  { meter: 'licence', unit: 'month', counts: 'seat', bySize: false },
];

/** `GiB-month`, `host-hour`. */
export const unitOf = ({ meter, unit }: Rate): string =>
  `${METERED.find((one) => one.meter === meter)?.counts ?? meter}-${unit}`;

/** A month's price is for the whole of that month, however long it is; prorated by the second. */
export const secondsPerUnit = (unit: RateUnit, month: Period): number =>
  unit === 'hour' ? 3_600 : (month.to - month.from) / 1_000;

/** The rate that holds at an instant. Where several do, the one that began last. */
export function rateFor(
  rates: readonly Rate[],
  meter: Meter,
  size: string | null,
  at: Instant,
): Rate | undefined {
  return rates
    .filter((rate) => rate.meter === meter && (rate.size === null || rate.size === size))
    .filter((rate) => rate.from <= at && (rate.to === null || at < rate.to))
    .reduce<Rate | undefined>((best, rate) => (best && best.from >= rate.from ? best : rate), undefined);
}

/** The stretches of a month, up to `until`, in each of which every rate stays the same. In order; empty before it. */
export function cutsAt(
  month: Month,
  rates: readonly Rate[],
  until: Instant,
  more: readonly Instant[] = [],
): Period[] {
  const end = Math.min(month.to, until);
  if (end <= month.from) return [];
  const edges = [
    ...rates.flatMap((rate) => (rate.to === null ? [rate.from] : [rate.from, rate.to])),
    ...more,
  ].filter((edge) => edge > month.from && edge < end);
  const points = [...new Set([month.from, ...edges, end])].sort((a, b) => a - b);
  return points.slice(0, -1).flatMap((from, index) => {
    const to = points[index + 1];
    return to !== undefined && to > from ? [{ from, to }] : [];
  });
}
