import { SECOND, type Instant } from '../calendar';
import type { Meter } from '../rating';

/** What the provider says of a resource at one instant, as far as metering cares. */
export type Sighting =
  | { readonly kind: 'host'; readonly power: 'on' | 'off'; readonly size: string; readonly diskGiB: number }
  | { readonly kind: 'share'; readonly gib: number }
  | { readonly kind: 'pool'; readonly licences: number }
  | { readonly kind: 'gone' };

/** One thing that is counted while it lasts. Hosts that are off are recorded too, and cost no host-hours. */
export interface Measure {
  readonly meter: Meter;
  readonly state: 'on' | 'off';
  readonly size: string | null;
  readonly quantity: number;
}

/** What a resource in this state is metered as. */
export function measuresOf(sighting: Sighting): Measure[] {
  switch (sighting.kind) {
    case 'host':
      return [
        { meter: 'host', state: sighting.power, size: sighting.size, quantity: 1 },
        { meter: 'disk', state: 'on', size: null, quantity: sighting.diskGiB },
      ];
    case 'share':
      return [{ meter: 'share', state: 'on', size: null, quantity: sighting.gib }];
    case 'pool':
      return sighting.licences > 0
        ? [{ meter: 'licence', state: 'on', size: null, quantity: sighting.licences }]
        : [];
    case 'gone':
      return [];
  }
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
 * What a sighting does to a resource's open intervals: those that still hold stay open, the others close at its
 * instant, and what is new opens there. Intervals begin and end on whole seconds, never before they began; seeing the
 * same again changes nothing.
 */
export function meter<Id>(open: readonly OpenInterval<Id>[], sighting: Sighting, at: Instant): MeterMove<Id> {
  const second = Math.floor(at / SECOND) * SECOND;
  const wanted = measuresOf(sighting);
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
