import fc from 'fast-check';
import { DateTime } from 'luxon';
import { describe, expect, it } from 'vitest';
import { windowAt, writeWindow, type Window } from '../../src/core/calendar';
import { mayBegin, policyWish } from '../../src/core/planning';
import { proposed } from './setup/facts';
import { standing } from './situations/standing';

const at = (text: string, zone: string): number => DateTime.fromISO(text, { zone }).toMillis();
const shown = (window: Window, now: string, zone: string): string => {
  const found = windowAt(window, at(now, zone), zone);
  const say = (instant: number): string => DateTime.fromMillis(instant, { zone }).toFormat('ccc HH:mm ZZ');
  return found ? `${say(found.from)} to ${say(found.to)}` : 'never';
};
const DUBLIN = 'Europe/Dublin';
const saturday: Window = { days: [6], from: '22:00', to: '04:00' };

describe('a window', () => {
  it.each([
    ['2026-11-26T12:00', 'Sat 22:00 +00:00 to Sun 04:00 +00:00'],
    ['2026-11-28T21:59:59', 'Sat 22:00 +00:00 to Sun 04:00 +00:00'],
    // Within it, and past midnight.
    ['2026-11-28T22:00', 'Sat 22:00 +00:00 to Sun 04:00 +00:00'],
    ['2026-11-29T03:59:59', 'Sat 22:00 +00:00 to Sun 04:00 +00:00'],
    ['2026-11-29T04:00', 'Sat 22:00 +00:00 to Sun 04:00 +00:00'],
  ])('at %s is %s', (now, says) => expect(shown(saturday, now, DUBLIN)).toBe(says));

  it('that is over is the next week’s', () => {
    const first = windowAt(saturday, at('2026-11-28T23:00', DUBLIN), DUBLIN);
    const next = windowAt(saturday, first?.to ?? 0, DUBLIN);
    expect((next?.from ?? 0) - (first?.from ?? 0)).toBe(7 * 86_400_000);
  });

  it('is as long as the clocks say where they are set', () => {
    const night: Window = { days: [6], from: '22:00', to: '04:00' };
    const hours = (now: string): number => {
      const found = windowAt(night, at(now, DUBLIN), DUBLIN);
      return ((found?.to ?? 0) - (found?.from ?? 0)) / 3_600_000;
    };
    // Clocks go back on 25 October 2026 and forward on 29 March 2026 (European Union, Directive 2000/84/EC).
    expect(hours('2026-10-24T12:00')).toBe(7);
    expect(hours('2026-03-28T12:00')).toBe(5);
    expect(hours('2026-11-28T12:00')).toBe(6);
  });

  it('begins when the clock comes to it, though that time of day was left out', () => {
    const early: Window = { days: [7], from: '01:30', to: '03:00' };
    expect(shown(early, '2026-03-28T12:00', DUBLIN)).toBe('Sun 02:30 +01:00 to Sun 03:00 +01:00');
  });

  it('that the clock leaves out altogether is passed over', () => {
    const left: Window = { days: [7], from: '01:30', to: '02:30' };
    expect(shown(left, '2026-03-28T12:00', DUBLIN)).toBe('Sun 01:30 +01:00 to Sun 02:30 +01:00');
    const found = windowAt(left, at('2026-03-28T12:00', DUBLIN), DUBLIN);
    expect(new Date(found?.from ?? 0).toISOString()).toBe('2026-04-05T00:30:00.000Z');
  });

  it('of the whole day goes on to the same hour of the next', () => {
    const daily: Window = { days: [1, 2, 3, 4, 5, 6, 7], from: '06:00', to: '06:00' };
    expect(shown(daily, '2026-11-26T05:00', DUBLIN)).toBe('Wed 06:00 +00:00 to Thu 06:00 +00:00');
    expect(writeWindow(daily)).toBe('daily 06:00 to 06:00');
    expect(writeWindow({ days: [6, 7], from: '22:00', to: '04:00' })).toBe('Sat, Sun 22:00 to 04:00');
    expect(windowAt({ ...daily, days: [] }, 0, DUBLIN)).toBeUndefined();
  });

  it('is by the clock of its place', () => {
    const found = windowAt(saturday, at('2026-11-26T12:00', 'UTC'), 'Pacific/Auckland');
    expect(new Date(found?.from ?? 0).toISOString()).toBe('2026-11-28T09:00:00.000Z');
  });

  it('is never over, and never so far that one was passed over', () =>
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: 4_000_000_000_000 }),
        fc.uniqueArray(fc.integer({ min: 1, max: 7 }), { minLength: 1 }),
        fc.integer({ min: 0, max: 23 }),
        fc.integer({ min: 0, max: 23 }),
        fc.constantFrom('Europe/Dublin', 'Australia/Lord_Howe', 'America/St_Johns', 'UTC'),
        (now, days, from, to, zone) => {
          const hour = (n: number): string => `${String(n).padStart(2, '0')}:00`;
          const found = windowAt({ days, from: hour(from), to: hour(to) }, now, zone);
          if (!found) throw new Error('there is one');
          expect(found.to).toBeGreaterThan(now);
          expect(found.to).toBeGreaterThan(found.from);
          expect(found.from - now).toBeLessThanOrEqual(8 * 86_400_000);
        },
      ),
    ));
});

describe('a change in a window', () => {
  const grown = (window: Window, policy: object = {}) =>
    proposed('grow-disk', { pool: 'desks', diskGiB: 256 }, standing, { window, ...policy });
  const check = (window: Window) => grown(window).checks.find((one) => one.key === 'window');

  it('says when it begins, by the customer’s clock, and whether it ends within it', () => {
    expect(check(saturday)).toMatchObject({ state: 'passes' });
    expect(check(saturday)?.says).toMatch(
      /^Sat 22:00 to 04:00: begins Sat \d+ \w+ 22:00 in Europe\/Dublin, and ends within it$/,
    );
    const short = check({ ...saturday, to: '22:01' });
    expect(short?.state).toBe('warns');
    expect(short?.says).toMatch(/it takes about \d+ min and has 1: the rest waits for the next one$/);
    expect(grown(saturday).policy.window).toEqual(saturday);
    expect(mayBegin(grown(saturday).checks)).toBe(true);
  });

  it('fits where it takes just as long as there is', () => {
    const minutes = Math.ceil(grown(saturday).seconds / 60);
    const until = (n: number): string => `22:${String(n).padStart(2, '0')}`;
    expect(minutes).toBeLessThan(60);
    expect([minutes - 1, minutes].map((n) => check({ ...saturday, to: until(n) })?.state)).toEqual([
      'warns',
      'passes',
    ]);
  });

  it('asks for nothing where there is none', () =>
    expect(
      proposed('grow-disk', { pool: 'desks', diskGiB: 256 }, standing).checks.map((one) => one.key),
    ).not.toContain('window'));

  it.each([
    [{ days: [], from: '22:00', to: '04:00' }, 'choose a day'],
    [{ days: [8], from: '22:00', to: '04:00' }, 'less than or equal to 7'],
    [{ days: [1], from: '24:00', to: '04:00' }, 'write it like 22:00'],
    [{ days: [1], from: '', to: '04:00' }, 'write it like 22:00'],
    [{ days: [1, 1], from: '22:00', to: '04:00' }, 'duplicate'],
    [{ days: [1], from: '22:00' }, 'required'],
  ])('is refused as %j', (window, says) =>
    expect(policyWish.validate({ window }).error?.message).toContain(says),
  );
});
