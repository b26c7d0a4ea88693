import ICAL from 'ical.js';
import { DateTime } from 'luxon';
import rrule, { type Options } from 'rrule';
import { DAY, isZone, type Instant } from '../calendar';
import { ok, refuse, type Result } from '../result';

const { RRule } = rrule;

/** When an image is built anew: so many days after a day that a rule names, at a time of day. */
export interface RefreshRule {
  /** RFC 5545: `FREQ=MONTHLY;BYDAY=2TU`, the day on which the vendor's patches come. */
  readonly rule: string;
  /** Days after it, for time to hear of faults in them; 0 to 27. */
  readonly after: number;
  /** `HH:MM`, in its zone. */
  readonly time: string;
  /** IANA. */
  readonly zone: string;
  /** Whose public holidays are left out (ISO 3166-1); empty: nobody's. */
  readonly country: string;
}

/** Whether a date (`2026-12-25`) is left out. */
export type IsHoliday = (date: string) => boolean;

/**
 * The parts that are known here, and how one value of each is written (RFC 5545, 3.3.10). Without INTERVAL: every second
 * month of what, a rule alone does not say.
 */
const PARTS: ReadonlyMap<string, RegExp> = new Map([
  ['FREQ', /^(?:WEEKLY|MONTHLY|YEARLY)$/],
  ['BYDAY', /^(?:[+-]?(?:[1-9]|[1-4]\d|5[0-3]))?(?:MO|TU|WE|TH|FR|SA|SU)$/],
  ['BYMONTH', /^(?:[1-9]|1[0-2])$/],
  ['BYMONTHDAY', /^[+-]?(?:[1-9]|[12]\d|3[01])$/],
  ['BYSETPOS', /^[+-]?(?:[1-9]\d?|[12]\d\d|3[0-5]\d|36[0-6])$/],
  ['WKST', /^(?:MO|TU|WE|TH|FR|SA|SU)$/],
]);
/**
 * Days repeat with their weekdays every 400 years. The library looks for one until the year 9999, so it is asked about so many
 * years later: for a rule that names no day it gives up twenty times as soon.
 */
const LATER = 19 * 400;
/** What a rule leaves open is as on this day: a Monday, the first of its month and year. */
const ANCHOR = new Date(Date.UTC(2024 + LATER, 0, 1));
/** A rule that names no day in so many years names none: the 29th of February may be eight years away. */
const HORIZON = { years: 9 };

/** Days on which holidays move a time at most. */
const MOST_MOVED = 30;

/** A rule as it can be reckoned with; refused with what is wrong with it. */
function readRule(text: string): Result<Partial<Options>> {
  const parts = text.split(';').map((part): [string, string] => {
    const [name = '', ...value] = part.split('=');
    return [name, value.join('=')];
  });
  const by = new Map(parts);
  for (const [name, value] of parts) {
    const form = PARTS.get(name);
    if (!form) return refuse(name === '' ? 'is empty' : `${name} is not known here`);
    const wrong = value.split(',').find((one) => !form.test(one));
    if (wrong !== undefined)
      return refuse(name === 'FREQ' ? 'is weekly, monthly or yearly' : `${name} cannot be "${wrong}"`);
  }
  const frequency = by.get('FREQ');
  if (frequency === undefined) return refuse('is weekly, monthly or yearly: say FREQ');
  if (by.size < parts.length) return refuse('says one part twice');
  const weekdays = by.get('BYDAY')?.split(',') ?? [];
  const counted = weekdays.filter((day) => /\d/.test(day)).length;
  if (frequency === 'WEEKLY' && (by.has('BYMONTHDAY') || counted > 0))
    return refuse('counts days of a month, and is weekly');
  // RFC 5545 allows it. Libraries do not agree on which days that names.
  if (counted > 0 && counted < weekdays.length) return refuse('counts some weekdays and not others');
  if (by.has('BYSETPOS') && !['BYDAY', 'BYMONTH', 'BYMONTHDAY'].some((name) => by.has(name)))
    return refuse('BYSETPOS counts the days of another part, and there is none');
  return ok(RRule.parseString(text));
}

/** What is wrong with a rule, beside its field; undefined: nothing. */
export function refreshFault({
  rule,
  after,
  time,
  zone,
}: RefreshRule): Readonly<Record<string, string>> | undefined {
  const read = readRule(rule);
  if (!read.ok) return { rule: read.problem };
  if (!Number.isInteger(after) || after < 0 || after > 27) return { after: 'is 0 to 27 days' };
  if (!/^([01]\d|2[0-3]):[0-5]\d$/.test(time)) return { time: 'write it like 06:00' };
  if (!isZone(zone)) return { zone: 'is no zone of the IANA time zone database' };
  const first = namedDays(read.value, '2026-01-01', 1);
  return first.length === 0 ? { rule: 'names no day at all' } : undefined;
}

/** The days that a rule names from a date on, in order. */
function namedDays(rule: Partial<Options>, from: string, count: number): string[] {
  const start = DateTime.fromISO(from, { zone: 'utc' }).plus({ years: LATER });
  const until = start.plus(HORIZON).toJSDate();
  return new RRule({ ...rule, dtstart: ANCHOR, until })
    .between(start.toJSDate(), until, true, (_day, found) => found < count)
    .map((day) => DateTime.fromJSDate(day, { zone: 'utc' }).minus({ years: LATER }).toISODate() ?? '');
}

/**
 * The next times at which an image is refreshed, in order: the day after so many days, or the next one that is no holiday.
 * Where a clock change leaves that time out, it is as long after midnight.
 * @param from the instant after which they lie
 * @param count how many, from 1
 */
export function refreshTimes(
  { rule, after, time, zone }: RefreshRule,
  from: Instant,
  count: number,
  isHoliday: IsHoliday,
): Instant[] {
  const read = readRule(rule);
  if (!read.ok) return [];
  const first = DateTime.fromMillis(from, { zone }).minus({ days: after + MOST_MOVED + 1 });
  // Of those that lie before, and of those that a holiday moves to one day, there are fewer than so many.
  const times = namedDays(read.value, first.toISODate() ?? '', count + 80).map((date) => {
    let day = DateTime.fromISO(date, { zone: 'utc' }).plus({ days: after });
    for (let moved = 0; isHoliday(day.toISODate() ?? '') && moved < MOST_MOVED; moved++)
      day = day.plus({ days: 1 });
    return DateTime.fromISO(`${day.toISODate() ?? ''}T${time}`, { zone }).toMillis();
  });
  return [...new Set(times)].filter((at) => at > from).slice(0, count);
}

/**
 * Whether an image's rule wants it built anew now: a time of it has come since its newest version was begun, and that is not
 * longer ago than a week, nor is one being built.
 */
export function isRefreshDue(
  {
    refresh,
    versions,
  }: {
    readonly refresh?: RefreshRule | undefined;
    readonly versions: readonly { readonly machine: boolean; readonly begunAt: Instant }[];
  },
  now: Instant,
  isHoliday: IsHoliday,
): boolean {
  if (!refresh || versions.some((one) => one.machine)) return false;
  const since = Math.max(now - WEEK, ...versions.map((one) => one.begunAt));
  const [next] = refreshTimes(refresh, since, 1, isHoliday);
  return next !== undefined && next <= now;
}

/** What was missed for longer is not made up for: the next one comes. */
const WEEK = 7 * DAY;

/**
 * The times as an iCalendar (RFC 5545), for whoever keeps one.
 * @param stamp when it was made
 */
export function refreshCalendar(
  image: { readonly code: string; readonly name: string },
  times: readonly Instant[],
  stamp: Instant,
): string {
  const calendar = new ICAL.Component(['vcalendar', [], []]);
  calendar.addPropertyWithValue('prodid', '-//Laager//Images//EN');
  calendar.addPropertyWithValue('version', '2.0');
  for (const at of times) {
    const event = new ICAL.Component('vevent');
    event.addPropertyWithValue('uid', `${image.code}-${at}@laager`);
    event.addPropertyWithValue('dtstamp', instant(stamp));
    event.addPropertyWithValue('dtstart', instant(at));
    event.addPropertyWithValue('summary', `${image.name} is built anew`);
    calendar.addSubcomponent(event);
  }
  return `${calendar.toString()}\r\n`;
}

const instant = (at: Instant): ICAL.Time => ICAL.Time.fromJSDate(new Date(at), true);
