import { DateTime } from 'luxon';
import type { Instant, Period } from './instant';

/** When something may be worked on, by the clock of some place. */
export interface Window {
  /** Days of the week on which it begins, 1 (Monday) to 7 (Sunday), as ISO 8601 counts; one at least. */
  readonly days: readonly number[];
  /** `22:00`. */
  readonly from: string;
  /** `04:00`; not after `from`: of the day after. */
  readonly to: string;
}

/** So many days ahead the next one is looked for: a window that begins once a week is among them. */
const AHEAD = 9;

/**
 * The window that an instant is in, or the next one after it. Where clocks are set it is as long as they say: a time of day
 * that is left out is the one that the clock then shows, and one that is there twice is the first.
 * @param zone IANA
 * @returns undefined when it names no day
 */
export function windowAt({ days, from, to }: Window, at: Instant, zone: string): Period | undefined {
  const first = DateTime.fromMillis(at, { zone }).startOf('day').minus({ days: 1 });
  for (let n = 0; n <= AHEAD; n++) {
    const day = first.plus({ days: n });
    if (!days.includes(day.weekday)) continue;
    const begins = timeOf(day, from);
    const ends = timeOf(to > from ? day : day.plus({ days: 1 }), to);
    if (ends > at && ends > begins) return { from: begins, to: ends };
  }
  return undefined;
}

function timeOf(day: DateTime, time: string): Instant {
  const [hour = 0, minute = 0] = time.split(':').map(Number);
  return day.set({ hour, minute, second: 0, millisecond: 0 }).toMillis();
}

const SHORT = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun'] as const;
/** Days of the week as they are written in short, from Monday. */
export const WEEKDAYS: readonly string[] = SHORT;

/** `Sat, Sun 22:00 to 04:00`. */
export const writeWindow = ({ days, from, to }: Window): string =>
  `${days.length === 7 ? 'daily' : days.map((day) => SHORT[day - 1] ?? '').join(', ')} ${from} to ${to}`;
