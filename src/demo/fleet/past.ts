import { DateTime } from 'luxon';
import type { Measure } from '../../core/metering';

/** A stretch of a resource's past, as it is metered. */
export interface Stretch extends Measure {
  readonly from: number;
  readonly to: number;
}

export interface Past {
  readonly from: number;
  readonly to: number;
  readonly zone: string;
  /** Off at night and at the weekend; of months long past only the weekends are told apart. */
  readonly sleeps: boolean;
}

/** What a resource was metered as in its past, back to back: what it is metered as when on, and what when off. */
export function stretchesOf(past: Past, on: readonly Measure[], off: readonly Measure[]): Stretch[] {
  const changing = past.sleeps ? on.filter((one, n) => one.state !== off[n]?.state) : [];
  const steady = on.filter((one) => !changing.includes(one));
  return [
    ...steady.map((one): Stretch => ({ ...one, from: past.from, to: past.to })),
    ...changing.flatMap((one) => switched(past, one, off[on.indexOf(one)] ?? one)),
  ];
}

const RISE = 7;
const FALL = 19;
/** Days told apart one by one, back from today. */
const NEAR_DAYS = 35;

function switched({ from, to, zone }: Past, on: Measure, off: Measure): Stretch[] {
  const near = DateTime.fromMillis(to, { zone }).startOf('day').minus({ days: NEAR_DAYS }).toMillis();
  const found: Stretch[] = [];
  let since = from;
  let isOn = true;
  const turn = (at: number, next: boolean): void => {
    if (at <= since || at >= to || next === isOn) return;
    found.push({ ...(isOn ? on : off), from: since, to: at });
    since = at;
    isOn = next;
  };
  for (
    let day = DateTime.fromMillis(from, { zone }).startOf('day');
    day.toMillis() < to;
    day = day.plus({ days: 1 })
  ) {
    const works = day.weekday <= 5;
    const isNear = day.toMillis() >= near;
    if (works && (isNear || day.weekday === 1)) turn(day.set({ hour: RISE }).toMillis(), true);
    if (works && (isNear || day.weekday === 5)) turn(day.set({ hour: FALL }).toMillis(), false);
  }
  found.push({ ...(isOn ? on : off), from: since, to });
  return found;
}
