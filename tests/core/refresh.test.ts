import fc from 'fast-check';
import ICAL from 'ical.js';
import pkg from 'rrule';
import { describe, expect, it } from 'vitest';
import { refreshCalendar, refreshFault, refreshTimes, type RefreshRule } from '../../src/core/refresh';

const { rrulestr } = pkg;
const never = (): boolean => false;
const rule = (over: Partial<RefreshRule> = {}): RefreshRule => ({
  rule: 'FREQ=MONTHLY;BYDAY=2TU',
  after: 0,
  time: '06:00',
  zone: 'Europe/Dublin',
  country: '',
  ...over,
});
const told = (times: readonly number[]): string[] =>
  times.map((at) => new Date(at).toISOString().slice(0, 16));

describe('when an image is refreshed', () => {
  // RFC 5545, 3.8.5.3, the examples that name days alone; begun on a day as there, told as there.
  it.each([
    ['FREQ=MONTHLY;BYDAY=1FR', '1997-09-05', ['09-05', '10-03', '11-07', '12-05']],
    ['FREQ=MONTHLY;BYDAY=-2MO', '1997-09-22', ['09-22', '10-20', '11-17', '12-22']],
    ['FREQ=MONTHLY;BYMONTHDAY=-3', '1997-09-28', ['09-28', '10-29', '11-28', '12-29']],
    ['FREQ=MONTHLY;BYMONTHDAY=2,15', '1997-09-02', ['09-02', '09-15', '10-02', '10-15', '11-02']],
    ['FREQ=MONTHLY;BYDAY=FR;BYMONTHDAY=13', '1998-02-01', ['02-13', '03-13', '11-13']],
    ['FREQ=MONTHLY;BYDAY=MO,TU,WE,TH,FR;BYSETPOS=-2', '1997-09-29', ['09-29', '10-30', '11-27', '12-30']],
    ['FREQ=YEARLY;BYMONTH=3;BYDAY=TH', '1997-03-13', ['03-13', '03-20', '03-27']],
  ])('%s from %s', (text, from, days) => {
    const [year] = from.split('-');
    const before = Date.parse(`${from}T00:00:00Z`);
    const found = refreshTimes(
      rule({ rule: text, zone: 'Etc/UTC', time: '09:00' }),
      before,
      days.length,
      never,
    );
    expect(told(found)).toEqual(days.map((day) => `${year}-${day}T09:00`));
  });

  it('is as another library says, for every rule that it takes', () => {
    const days = fc.constantFrom('MO', 'TU', 'WE', 'TH', 'FR', 'SA', 'SU');
    const nth = fc.tuple(fc.constantFrom(1, 2, 3, 4, -1, -2), days).map(([n, day]) => `${n}${day}`);
    const text = fc.oneof(
      fc.uniqueArray(days, { minLength: 1, maxLength: 3 }).map((all) => `FREQ=WEEKLY;BYDAY=${all.join(',')}`),
      fc.uniqueArray(nth, { minLength: 1, maxLength: 2 }).map((all) => `FREQ=MONTHLY;BYDAY=${all.join(',')}`),
      fc
        .uniqueArray(fc.constantFrom(1, 2, 13, 28, 29, 30, 31, -1, -3), { minLength: 1, maxLength: 3 })
        .map((all) => `FREQ=MONTHLY;BYMONTHDAY=${all.join(',')}`),
      fc
        .tuple(fc.integer({ min: 1, max: 12 }), fc.integer({ min: 1, max: 31 }))
        .filter(([month, day]) => day <= new Date(Date.UTC(2024, month, 0)).getUTCDate())
        .map(([month, day]) => `FREQ=YEARLY;BYMONTH=${month};BYMONTHDAY=${day}`),
    );
    const from = fc.integer({ min: Date.UTC(2024, 0, 1), max: Date.UTC(2030, 0, 1) });
    fc.assert(
      fc.property(text, from, (one, at) => {
        const start = new Date(at - 400 * 86_400_000).toISOString().slice(0, 10).replaceAll('-', '');
        const theirs = rrulestr(`DTSTART:${start}T090000Z\nRRULE:${one}`)
          .between(new Date(at), new Date(at + 3_000 * 86_400_000))
          .slice(0, 5)
          .map((day) => day.getTime());
        const ours = refreshTimes(rule({ rule: one, zone: 'Etc/UTC', time: '09:00' }), at, 5, never);
        expect(told(ours.slice(0, theirs.length))).toEqual(told(theirs));
      }),
      { numRuns: 100 },
    );
  });

  it('is so many days after, and not on a holiday', () => {
    const from = Date.UTC(2026, 11, 1);
    const christmas = (date: string): boolean => ['2026-12-25', '2026-12-26'].includes(date);
    // The second Tuesday of December 2026 is the 8th.
    expect(told(refreshTimes(rule({ after: 3 }), from, 2, never))).toEqual([
      '2026-12-11T06:00',
      '2027-01-15T06:00',
    ]);
    expect(told(refreshTimes(rule({ after: 17 }), from, 1, christmas))).toEqual(['2026-12-27T06:00']);
  });

  it('keeps its time of day when clocks change, and passes over one that is left out', () => {
    const weekly = rule({ rule: 'FREQ=WEEKLY;BYDAY=SU', time: '01:30' });
    // Dublin: summer time begins on 29 March 2026 at 01:00 UTC, and 01:30 is not.
    expect(told(refreshTimes(weekly, Date.UTC(2026, 2, 20), 3, never))).toEqual([
      '2026-03-22T01:30',
      '2026-03-29T01:30',
      '2026-04-05T00:30',
    ]);
  });

  it.each([
    ['', { rule: 'is empty' }],
    ['FREQ=MINUTELY', { rule: 'is weekly, monthly or yearly' }],
    ['FREQ=MONTHLY;BYDAY=9XX', { rule: 'invalid BYDAY value "9XX"' }],
    ['FREQ=MONTHLY;COUNT=3', { rule: 'COUNT is not known here' }],
    ['FREQ=YEARLY;BYMONTH=2;BYMONTHDAY=30', { rule: 'names no day at all' }],
    ['FREQ=MONTHLY;INTERVAL=2;BYDAY=1FR', { rule: 'INTERVAL is not known here' }],
  ])('%s is refused', (text, fault) => expect(refreshFault(rule({ rule: text }))).toEqual(fault));

  it('is refused beside the field that is wrong', () => {
    expect(refreshFault(rule())).toBeUndefined();
    expect(refreshFault(rule({ after: 28 }))).toEqual({ after: 'is 0 to 27 days' });
    expect(refreshFault(rule({ time: '25:00' }))).toEqual({ time: 'write it like 06:00' });
    expect(refreshFault(rule({ zone: 'Mars/Base' }))).toHaveProperty('zone');
  });

  it('is an iCalendar that another reads the same from', () => {
    const times = refreshTimes(rule(), Date.UTC(2026, 11, 1), 3, never);
    const text = refreshCalendar(
      { code: 'office', name: 'Office; "all" of it,\nand more' },
      times,
      Date.UTC(2026, 11, 1),
    );
    const events = new ICAL.Component(ICAL.parse(text)).getAllSubcomponents('vevent');
    expect(
      events.map((one) => (one.getFirstPropertyValue('dtstart') as ICAL.Time).toJSDate().getTime()),
    ).toEqual(times);
    expect(events[0]?.getFirstPropertyValue('summary')).toBe('Office; "all" of it,\nand more is built anew');
    // RFC 5545, 3.1: lines end with CRLF, and none is longer than 75 octets.
    for (const line of text.split('\r\n')) expect(Buffer.byteLength(line)).toBeLessThanOrEqual(75);
  });
});
