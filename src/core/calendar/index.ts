import { DateTime, IANAZone } from 'luxon';

/** An instant: milliseconds since 1970-01-01T00:00:00Z. */
export type Instant = number;

export const SECOND = 1_000;
export const MINUTE = 60 * SECOND;
export const HOUR = 60 * MINUTE;
export const DAY = 24 * HOUR;

/** A stretch of time: `from` belongs to it, `to` does not. */
export interface Period {
  readonly from: Instant;
  readonly to: Instant;
}

/** A calendar month in a zone; `key` is written as ISO 8601 does: `2026-11`. */
export interface Month extends Period {
  readonly key: string;
  readonly zone: string;
}

/** Whether `zone` names a zone of the IANA time zone database. */
export const isZone = (zone: string): boolean => IANAZone.isValidZone(zone);

/** The month that holds an instant, as the people in `zone` count it: 672 to 745 hours long. */
export function monthOf(at: Instant, zone: string): Month {
  return monthFrom(DateTime.fromMillis(at, { zone }).startOf('month'), zone);
}

/** The month written `key` (`2026-11`) in `zone`; undefined when it is not written so. */
export function monthNamed(key: string, zone: string): Month | undefined {
  if (!/^\d{4}-(0[1-9]|1[0-2])$/.test(key)) return undefined;
  return monthFrom(DateTime.fromISO(`${key}-01`, { zone }), zone);
}

function monthFrom(start: DateTime, zone: string): Month {
  return {
    key: start.toFormat('yyyy-MM'),
    zone,
    from: start.toMillis(),
    to: start.plus({ months: 1 }).toMillis(),
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
  let start = DateTime.fromMillis(period.from, { zone }).startOf('day');
  while (start.toMillis() < period.to) {
    const next = start.plus({ days: 1 }).startOf('day');
    days.push({
      date: start.toFormat('yyyy-MM-dd'),
      weekday: start.weekday,
      from: start.toMillis(),
      to: next.toMillis(),
    });
    start = next;
  }
  return days;
}

/** The part of `period` inside `bounds`; undefined when they do not meet. */
export function clip(period: Period, bounds: Period): Period | undefined {
  const from = Math.max(period.from, bounds.from);
  const to = Math.min(period.to, bounds.to);
  return from < to ? { from, to } : undefined;
}

/** Length in whole seconds, rounded down. */
export const secondsOf = (period: Period): number => Math.floor((period.to - period.from) / SECOND);
