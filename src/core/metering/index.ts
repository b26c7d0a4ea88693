import { SECOND, type Instant } from '../calendar';
import type { Meter } from '../rating';

/** One thing that is counted while it lasts. Hosts that are off are recorded too, and cost no host-hours. */
export interface Measure {
  readonly meter: Meter;
  readonly state: 'on' | 'off';
  /** Hosts have a price per size; null elsewhere. */
  readonly size: string | null;
  /** Hosts, GiB or seats. */
  readonly quantity: number;
}

export interface OpenInterval<Id> extends Measure {
  readonly id: Id;
  readonly from: Instant;
}

export interface MeterMove<Id> {
  readonly close: readonly { readonly id: Id; readonly to: Instant }[];
  readonly open: readonly (Measure & { readonly from: Instant })[];
}

/**
 * What a resource's measures from an instant on do to its open intervals: those that still hold stay open, the others
 * close there, and what is new opens there. Intervals begin and end on whole seconds, never before they began; the same
 * measures again change nothing.
 * @param wanted what it is metered as from `at` on; empty once it is gone
 * @param known up to when the resource is metered already: what is told later counts from there at the earliest, so that a
 *   record whose clock went back bills no second twice
 */
export function meter<Id>(
  open: readonly OpenInterval<Id>[],
  wanted: readonly Measure[],
  at: Instant,
  known: Instant = 0,
): MeterMove<Id> {
  const second = Math.max(known, Math.floor(at / SECOND) * SECOND);
  const stays = (interval: OpenInterval<Id>): boolean => wanted.some((measure) => same(measure, interval));
  return {
    close: open
      .filter((interval) => !stays(interval))
      .map((interval) => ({ id: interval.id, to: Math.max(second, interval.from) })),
    open: wanted
      .filter((measure) => !open.some((interval) => same(measure, interval)))
      .map((measure) => ({ ...measure, from: second })),
  };
}

const same = (a: Measure, b: Measure): boolean =>
  a.meter === b.meter && a.state === b.state && a.size === b.size && a.quantity === b.quantity;
