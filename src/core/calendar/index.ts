import { DateTime, IANAZone } from 'luxon';
import { DAY, MINUTE, SECOND, type Instant, type Period } from './instant';

export { DAY, HOUR, MINUTE, SECOND, type Instant, type Period } from './instant';

/** A calendar month in a zone; `key` is written as ISO 8601 does: `2026-11`. */
export interface Month extends Period {
  readonly key: string;
  readonly zone: string;
}

/** Whether `zone` names a zone of the IANA time zone database. */
export const isZone = (zone: string): boolean => IANAZone.isValidZone(zone);

interface CalendarDate {
  readonly year: number;
  readonly month: number;
  readonly day: number;
}

const dateIn = (at: Instant, zone: string): CalendarDate => {
  const { year, month, day } = DateTime.fromMillis(at, { zone });
  return { year, month, day };
};

/** A date as an instant of UTC: for reckoning with dates, whatever the zone. */
const plainly = ({ year, month, day }: CalendarDate): Instant => Date.UTC(year, month - 1, day);
const dateOf = (plain: Instant): CalendarDate => dateIn(plain, 'utc');

/**
 * The first instant of a date in a zone. Where clocks are set back over midnight it is the first of two; where they are
 * set forward over it, the instant at which they are; undefined where the whole date was left out.
 */
function firstInstant(date: CalendarDate, zone: string): Instant | undefined {
  const midnight = plainly(date);
  const offsets = [-DAY, DAY].map((by) => DateTime.fromMillis(midnight + by, { zone }).offset * MINUTE);
  const found = offsets
    .map((offset) => midnight - offset)
    .filter((at) => plainly(dateIn(at, zone)) === midnight);
  return found.length === 0 ? undefined : Math.min(...found);
}

/** The month that holds an instant, as the people in `zone` count it: 672 to 745 hours long. */
export function monthOf(at: Instant, zone: string): Month {
  const { year, month } = dateIn(at, zone);
  return monthFrom(year, month, zone);
}

/** The month written `key` (`2026-11`) in `zone`; undefined when it is not written so. */
export function monthNamed(key: string, zone: string): Month | undefined {
  if (!/^\d{4}-(0[1-9]|1[0-2])$/.test(key)) return undefined;
  return monthFrom(Number(key.slice(0, 4)), Number(key.slice(5)), zone);
}

function monthFrom(year: number, month: number, zone: string): Month {
  const first = (of: number): Instant =>
    firstInstant(dateOf(Date.UTC(year, of - 1, 1)), zone) ?? Date.UTC(year, of - 1, 1);
  return {
    key: `${String(year).padStart(4, '0')}-${String(month).padStart(2, '0')}`,
    zone,
    from: first(month),
    to: first(month + 1),
  };
}

/** A calendar day in a zone: `weekday` is 1 (Monday) to 7 (Sunday), as ISO 8601 counts. */
export interface Day extends Period {
  readonly date: string;
  readonly weekday: number;
}

/** The days that a period touches, each whole, in order. A day at a clock change is 23 or 25 hours long. */
export function daysOf(period: Period, zone: string): Day[] {
  const days: Day[] = [];
  const last = plainly(dateIn(period.to - 1, zone));
  for (let plain = plainly(dateIn(period.from, zone)); plain <= last; plain += DAY) {
    const from = firstInstant(dateOf(plain), zone);
    if (from === undefined) continue;
    days.push({
      date: new Date(plain).toISOString().slice(0, 10),
      weekday: DateTime.fromMillis(plain, { zone: 'utc' }).weekday,
      from,
      to: nextInstant(plain, zone),
    });
  }
  return days;
}

/** The day written `2026-12-31` in a zone; undefined when it is written otherwise, or there is none such. */
export function dayNamed(date: string, zone: string): Day | undefined {
  if (!/^\d{4}-\d{2}-\d{2}$/.test(date)) return undefined;
  const plain = Date.parse(`${date}T00:00:00Z`);
  if (Number.isNaN(plain) || new Date(plain).toISOString().slice(0, 10) !== date) return undefined;
  const from = firstInstant(dateOf(plain), zone);
  if (from === undefined) return undefined;
  const { weekday } = DateTime.fromMillis(plain, { zone: 'utc' });
  return { date, weekday, from, to: nextInstant(plain, zone) };
}

/** The date in a zone that an instant is on, as `2026-12-31`. */
export const dateAt = (at: Instant, zone: string): string =>
  new Date(plainly(dateIn(at, zone))).toISOString().slice(0, 10);

/** The first instant of the date after one, passing over a date that was left out. */
function nextInstant(plain: Instant, zone: string): Instant {
  const next = plain + DAY;
  return firstInstant(dateOf(next), zone) ?? nextInstant(next, zone);
}

/** The part of `period` inside `bounds`; undefined when they do not meet. */
export function clip(period: Period, bounds: Period): Period | undefined {
  const from = Math.max(period.from, bounds.from);
  const to = Math.min(period.to, bounds.to);
  return from < to ? { from, to } : undefined;
}

/** Length in whole seconds, rounded down. */
export const secondsOf = (period: Period): number => Math.floor((period.to - period.from) / SECOND);

export { WEEKDAYS, windowAt, writeWindow, type Window } from './window';
