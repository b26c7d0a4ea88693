import fc from 'fast-check';
import ICAL from 'ical.js';
import { describe, expect, it } from 'vitest';
import {
  isRefreshDue,
  refreshCalendar,
  refreshFault,
  refreshTimes,
  type RefreshRule,
} from '../../src/core/refresh';

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
    // The calendars of 1997 and 2025 are alike, and so are those of 28 years each (until 2100).
    const year = Number(from.slice(0, 4)) + 28;
    const before = Date.parse(`${year}${from.slice(4)}T00:00:00Z`);
    const found = refreshTimes(
      rule({ rule: text, zone: 'Etc/UTC', time: '09:00' }),
      before,
      days.length,
      never,
    );
    expect(told(found)).toEqual(days.map((day) => `${year}-${day}T09:00`));
  });

  it('is each day that fits every part of a rule, and no other', () => {
    const names = ['SU', 'MO', 'TU', 'WE', 'TH', 'FR', 'SA'] as const;
    const some = <T>(from: fc.Arbitrary<T>): fc.Arbitrary<T[]> =>
      fc.uniqueArray(from, { minLength: 1, maxLength: 3 });
    const name = fc.constantFrom(...names);
    const nth = fc.tuple(fc.constantFrom(0, 1, 2, 3, 4, 5, -1, -2), name);
    const one = fc.record({
      freq: fc.constantFrom('MONTHLY', 'YEARLY'),
      days: fc.option(
        some(nth).filter((all) => all.every(([n]) => n === 0) || all.every(([n]) => n !== 0)),
        { nil: undefined },
      ),
      monthDays: fc.option(some(fc.constantFrom(1, 2, 13, 28, 29, 30, 31, -1, -3, -31)), { nil: undefined }),
      months: fc.option(some(fc.integer({ min: 1, max: 12 })), { nil: undefined }),
    });
    type Parts = typeof one extends fc.Arbitrary<infer T> ? T : never;
    // Day by day, as RFC 5545, 3.3.10, says of each part: a count of a weekday is within the month, or within
    // the year where a yearly rule names no month.
    const fits = (at: number, { freq, days, monthDays, months }: Parts): boolean => {
      const day = new Date(at);
      const [year, month, date] = [day.getUTCFullYear(), day.getUTCMonth(), day.getUTCDate()];
      const last = new Date(Date.UTC(year, month + 1, 0)).getUTCDate();
      if (months && !months.includes(month + 1)) return false;
      if (monthDays && !monthDays.some((n) => n === date || n === date - last - 1)) return false;
      if (!days)
        return (
          monthDays !== undefined ||
          (date === 1 && (freq === 'MONTHLY' || months !== undefined || month === 0))
        );
      const ofYear = freq === 'YEARLY' && !months;
      const begin = ofYear ? Date.UTC(year, 0, 1) : Date.UTC(year, month, 1);
      const end = ofYear ? Date.UTC(year, 11, 31) : Date.UTC(year, month, last);
      const week = 7 * 86_400_000;
      const [fromBegin, fromEnd] = [Math.floor((at - begin) / week) + 1, Math.floor((end - at) / week) + 1];
      return days.some(
        ([n, called]) => names[day.getUTCDay()] === called && (n === 0 || n === fromBegin || n === -fromEnd),
      );
    };
    const written = ({ freq, days, monthDays, months }: Parts): string =>
      [
        `FREQ=${freq}`,
        days && `BYDAY=${days.map(([n, called]) => `${n === 0 ? '' : n}${called}`).join()}`,
        monthDays && `BYMONTHDAY=${monthDays.join()}`,
        months && `BYMONTH=${months.join()}`,
      ]
        .filter((part) => part !== undefined)
        .join(';');
    fc.assert(
      fc.property(one, fc.integer({ min: 0, max: 4_000 }), (parts, n) => {
        const from = Date.UTC(2024, 0, 1) + n * 86_400_000;
        const expected: number[] = [];
        for (let at = from; at < from + 3_000 * 86_400_000 && expected.length < 5; at += 86_400_000)
          if (fits(at, parts)) expected.push(at);
        fc.pre(expected.length > 0);
        const ours = refreshTimes(
          rule({ rule: written(parts), zone: 'Etc/UTC', time: '00:00' }),
          from - 1,
          5,
          never,
        );
        expect(told(ours.slice(0, expected.length))).toEqual(told(expected));
      }),
      { numRuns: 200 },
    );
  });

  it.each([
    ['FREQ=WEEKLY;BYDAY=TU,TH', ['01-01', '01-06', '01-08', '01-13']],
    // What a rule leaves open does not move with the day on which one asks.
    ['FREQ=WEEKLY', ['01-05', '01-12', '01-19', '01-26']],
    ['FREQ=MONTHLY', ['01-01', '02-01', '03-01', '04-01']],
    ['FREQ=YEARLY;BYMONTH=4', ['04-01']],
  ])('%s is told of 2026 whenever one asks', (text, days) => {
    for (const from of ['2025-12-31', '2025-12-31T12:00', '2025-12-31T23:59'])
      expect(
        told(refreshTimes(rule({ rule: text, zone: 'Etc/UTC' }), Date.parse(`${from}Z`), days.length, never)),
      ).toEqual(days.map((day) => `2026-${day}T06:00`));
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

  it('keeps its time of day on the days after one on which clocks change', () =>
    expect(
      told(
        refreshTimes(
          rule({ rule: 'FREQ=WEEKLY;BYDAY=SU', time: '01:30', after: 2 }),
          Date.UTC(2026, 2, 25),
          1,
          never,
        ),
      ),
    ).toEqual(['2026-03-31T00:30']));

  it('is the same day as ever, however long after the rule’s day, and the next that is no holiday', () => {
    // The second Tuesday of May 2026 is the 12th; 27 days after it come 30 holidays.
    const months = (date: string): boolean => date >= '2026-06-08' && date < '2026-07-08';
    expect(told(refreshTimes(rule({ after: 27 }), Date.UTC(2026, 6, 7), 1, months))).toEqual([
      '2026-07-08T05:00',
    ]);
    const one = (date: string): boolean => date === '2026-12-08';
    expect(told(refreshTimes(rule(), Date.UTC(2026, 11, 1), 1, one))).toEqual(['2026-12-09T06:00']);
  });

  it('is due until a week after its time, and no longer, nor while one is built or since one was begun', () => {
    const at = Date.UTC(2026, 11, 8, 6);
    const day = 86_400_000;
    const due = (now: number, versions: { machine: boolean; begunAt: number }[] = []): boolean =>
      isRefreshDue({ refresh: rule(), versions }, now, never);
    expect([at - 1, at, at + 7 * day - 1, at + 7 * day].map((now) => due(now))).toEqual([
      false,
      true,
      true,
      false,
    ]);
    expect(due(at, [{ machine: true, begunAt: 0 }])).toBe(false);
    expect([at - 1, at].map((begunAt) => due(at + 1, [{ machine: false, begunAt }]))).toEqual([true, false]);
    expect(isRefreshDue({ versions: [] }, at, never)).toBe(false);
  });

  it('finds a 29th of February that is eight years away', () => {
    const leap = rule({ rule: 'FREQ=YEARLY;BYMONTH=2;BYMONTHDAY=29', zone: 'Etc/UTC' });
    expect(refreshFault(leap)).toBeUndefined();
    expect(told(refreshTimes(leap, Date.UTC(2096, 2, 1), 1, never))).toEqual(['2104-02-29T06:00']);
  });

  it.each([
    ['', { rule: 'is empty' }],
    ['FREQ=MINUTELY', { rule: 'is weekly, monthly or yearly' }],
    ['BYDAY=MO', { rule: 'is weekly, monthly or yearly: say FREQ' }],
    ['FREQ', { rule: 'is weekly, monthly or yearly' }],
    ['FREQ=MONTHLY;BYDAY=9XX', { rule: 'BYDAY cannot be "9XX"' }],
    ['FREQ=MONTHLY;BYDAY=', { rule: 'BYDAY cannot be ""' }],
    ['FREQ=MONTHLY;BYDAY=20MO', { rule: 'names no day at all' }],
    ['FREQ=MONTHLY;BYDAY=MO;BYSETPOS=9', { rule: 'names no day at all' }],
    ['FREQ=MONTHLY;BYSETPOS=1', { rule: 'BYSETPOS counts the days of another part, and there is none' }],
    ['FREQ=MONTHLY;BYSETPOS=367;BYDAY=MO', { rule: 'BYSETPOS cannot be "367"' }],
    ['FREQ=MONTHLY;BYMONTHDAY=32', { rule: 'BYMONTHDAY cannot be "32"' }],
    ['FREQ=YEARLY;BYMONTH=13', { rule: 'BYMONTH cannot be "13"' }],
    ['FREQ=WEEKLY;BYDAY=2MO', { rule: 'counts days of a month, and is weekly' }],
    ['FREQ=WEEKLY;BYMONTHDAY=3', { rule: 'counts days of a month, and is weekly' }],
    ['FREQ=MONTHLY;BYDAY=MO,2TU', { rule: 'counts some weekdays and not others' }],
    ['FREQ=MONTHLY;BYDAY=MO;FREQ=WEEKLY', { rule: 'says one part twice' }],
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
