import ICAL from 'ical.js';
import { DateTime } from 'luxon';
import { DAY, isZone, type Instant } from '../calendar';
import { ok, refuse, type Result } from '../result';

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

/** Without INTERVAL: every second month of what, a rule alone does not say. */
const PARTS = new Set(['FREQ', 'BYDAY', 'BYMONTH', 'BYMONTHDAY', 'BYSETPOS', 'WKST']);
const FREQUENCIES = new Set(['WEEKLY', 'MONTHLY', 'YEARLY']);
/** A rule that names no day in so many is taken to name none. */
const MOST_TRIES = 400;

/** A rule as it can be reckoned with; refused with what is wrong with it. */
function readRule(text: string): Result<ICAL.Recur> {
  const parts = text.split(';').map((part) => part.split('=')[0] ?? '');
  const strange = parts.find((part) => !PARTS.has(part));
  if (strange !== undefined) return refuse(strange === '' ? 'is empty' : `${strange} is not known here`);
  try {
    const rule = ICAL.Recur.fromString(text);
    if (!FREQUENCIES.has(rule.freq)) return refuse('is weekly, monthly or yearly');
    return ok(rule);
  } catch (error) {
    return refuse(error instanceof Error ? error.message : 'is no rule');
  }
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

/** The days that a rule names from a date on, in order: of RFC 5545 those without a time of day. */
function namedDays(rule: ICAL.Recur, from: string, count: number): string[] {
  const found: string[] = [];
  const days = rule.iterator(ICAL.Time.fromDateString(from));
  for (let tries = 0; found.length < count && tries < MOST_TRIES; tries++) {
    const next = days.next() as ICAL.Time | null;
    if (!next) break;
    const date = next.toString().slice(0, 10);
    // A 30th of February is no day.
    if (date >= from && isNamed(rule, date)) found.push(date);
  }
  return found;
}

function isNamed(rule: ICAL.Recur, date: string): boolean {
  const { year, month, day } = DateTime.fromISO(date, { zone: 'utc' });
  const last = DateTime.utc(year, month).daysInMonth ?? 31;
  const parts = rule.parts as Readonly<Record<string, readonly number[] | undefined>>;
  const { BYMONTHDAY: days, BYMONTH: months } = parts;
  return (
    (days?.some((one) => one === day || one === day - last - 1) ?? true) && (months?.includes(month) ?? true)
  );
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
  const first = DateTime.fromMillis(from, { zone }).minus({ days: after + 31 });
  const times = namedDays(read.value, first.toISODate() ?? '', count + 80).map((date) => {
    let day = DateTime.fromISO(`${date}T${time}`, { zone }).plus({ days: after });
    for (let moved = 0; isHoliday(day.toISODate() ?? '') && moved < 30; moved++) day = day.plus({ days: 1 });
    return day.toMillis();
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
