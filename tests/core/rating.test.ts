import fc from 'fast-check';
import { DateTime } from 'luxon';
import { describe, expect, it } from 'vitest';
import { clip, daysOf, isZone, monthNamed, monthOf, secondsOf } from '../../src/core/calendar';
import { forecastMonth } from '../../src/core/forecast';
import { meter, type Measure, type OpenInterval } from '../../src/core/metering';
import { RESOURCE_KINDS } from '../../src/core/resources';
import { money } from '../../src/core/money';
import {
  charge,
  cutsAt,
  METERED,
  paidNeeds,
  takenOff,
  monthlyCost,
  rateFor,
  type IncludedWhile,
  type Rate,
  type Usage,
  marginOf,
  markedUp,
} from '../../src/core/rating';
import { runs } from './setup/runs';

const at = (text: string): number => DateTime.fromISO(text, { zone: 'utc' }).toMillis();

const rate = (
  price: string,
  from: string,
  to: string | null = null,
  meterOf: Rate['meter'] = 'host',
): Rate => ({
  meter: meterOf,
  size: meterOf === 'host' ? 's' : null,
  unit: meterOf === 'host' ? 'hour' : 'month',
  price,
  from: at(from),
  to: to === null ? null : at(to),
});

describe('months and days', () => {
  // IANA tz database, zone Europe/London: clocks went forward on 29 March 2026 and go back on 25 October 2026.
  it('are an hour shorter and longer when clocks change', () => {
    const march = monthNamed('2026-03', 'Europe/London');
    const october = monthNamed('2026-10', 'Europe/London');
    expect(march && secondsOf(march)).toBe(31 * 86_400 - 3_600);
    expect(october && secondsOf(october)).toBe(31 * 86_400 + 3_600);
    const hours = march && daysOf(march, 'Europe/London').map((day) => (day.to - day.from) / 3_600_000);
    expect(hours?.filter((h) => h !== 24)).toEqual([23]);
    expect(hours?.[28]).toBe(23);
  });

  it('begin where the customer is, not at Greenwich', () => {
    expect(monthOf(at('2026-10-31T23:30:00Z'), 'Europe/Oslo').key).toBe('2026-11');
    expect(monthOf(at('2026-10-31T23:30:00Z'), 'UTC').key).toBe('2026-10');
  });

  it('are named as ISO 8601 names them, or not at all', () => {
    expect(monthNamed('2026-13', 'UTC')).toBeUndefined();
    expect(monthNamed('26-01', 'UTC')).toBeUndefined();
    expect(monthNamed('2026-11-01', 'UTC')).toBeUndefined();
    expect(monthNamed('x2026-11', 'UTC')).toBeUndefined();
    expect(isZone('Europe/Dublin')).toBe(true);
    expect(isZone('Coast/Nowhere')).toBe(false);
  });

  it('fill a period without gap or overlap', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 1_500 }), fc.integer({ min: 1, max: 40 }), (start, length) => {
        const period = {
          from: at('2024-01-01') + start * 86_400_000,
          to: at('2024-01-01') + (start + length) * 86_400_000,
        };
        const days = daysOf(period, 'Europe/London');
        for (const [i, day] of days.entries()) expect(day.to).toBe(days[i + 1]?.from ?? day.to);
        expect(
          days.map((day) => clip(day, period)).reduce((sum, part) => sum + (part ? secondsOf(part) : 0), 0),
        ).toBe(secondsOf(period));
      }),
    );
  });
});

describe('metering', () => {
  const metersOf = (kind: string, attributes: object): Measure[] =>
    RESOURCE_KINDS.find((one) => one.key === kind)?.meters({ ...attributes }) ?? [];
  const host = (power: 'on' | 'off', size = 's', diskGiB = 128): Measure[] =>
    metersOf('host', { power, size, diskGiB });
  const gone: Measure[] = [];

  it('names everything that a price card has to have a price for', () => {
    const all = [
      ...host('on'),
      ...metersOf('publication', { licences: 3 }),
      ...metersOf('share', { gib: 40 }),
      ...metersOf('image', { gib: 96 }),
    ].map(({ meter, size }) => ({ meter, bySize: size !== null }));
    expect(METERED.map(({ meter, bySize }) => ({ meter, bySize }))).toEqual(expect.arrayContaining(all));
    expect(METERED).toHaveLength(all.length);
  });

  it('counts a host and its disk from the moment it exists, hours only while it is on', () => {
    expect(host('off').map((one) => [one.meter, one.state])).toEqual([
      ['host', 'off'],
      ['disk', 'on'],
    ]);
    expect(metersOf('publication', { licences: 0 })).toEqual([]);
    expect(metersOf('share', { gib: 40 })).toEqual([
      { meter: 'share', state: 'on', size: null, quantity: 40 },
    ]);
  });

  it('leaves the disk’s interval open when only the power changes', () => {
    const first = meter([], host('on'), at('2026-11-01T10:00:00.900Z'));
    const open = first.open.map((one, id): OpenInterval<number> => ({ ...one, id }));
    expect(open.every((one) => one.from === at('2026-11-01T10:00:00Z'))).toBe(true);
    // A record whose clock went back: what it tells counts from where the last one did, and no second twice.
    const back = meter(open, host('off'), at('2026-11-01T09:00:00Z'), at('2026-11-01T10:00:00Z'));
    expect(back.close.map((one) => one.to)).toEqual([at('2026-11-01T10:00:00Z')]);
    expect(back.open.map((one) => one.from)).toEqual([at('2026-11-01T10:00:00Z')]);
    const second = meter(open, host('off'), at('2026-11-01T12:00:00Z'));
    expect(second.close).toEqual([{ id: 0, to: at('2026-11-01T12:00:00Z') }]);
    expect(second.open.map((one) => one.state)).toEqual(['off']);
  });

  it('never counts twice nor backwards, whatever is seen and however often', () => {
    const sightings = fc.array(
      fc.record({
        after: fc.integer({ min: 0, max: 100_000 }),
        seen: fc.oneof(
          fc.constantFrom<Measure[]>(host('on'), host('off'), host('on', 'm'), host('on', 's', 256)),
          fc.constant<Measure[]>(gone),
        ),
      }),
      { maxLength: 20 },
    );
    fc.assert(
      fc.property(sightings, (list) => {
        let open: OpenInterval<number>[] = [];
        const closed: { from: number; to: number; meter: string }[] = [];
        let now = 0;
        let next = 0;
        for (const { after, seen } of list) {
          now += after;
          for (let again = 0; again < 2; again++) {
            const move = meter(open, seen, now);
            if (again === 1) expect(move).toEqual({ close: [], open: [] });
            for (const { id, to } of move.close) {
              const interval = open.find((one) => one.id === id);
              if (interval) closed.push({ from: interval.from, to, meter: interval.meter });
            }
            const gone = new Set(move.close.map((one) => one.id));
            open = [
              ...open.filter((one) => !gone.has(one.id)),
              ...move.open.map((one) => ({ ...one, id: next++ })),
            ];
          }
        }
        for (const one of closed) expect(one.to).toBeGreaterThanOrEqual(one.from);
        for (const name of ['host', 'disk']) {
          const own = closed
            .filter((one) => one.meter === name)
            .sort((a, b) => a.from - b.from || a.to - b.to);
          for (const [i, one] of own.entries())
            expect(own[i + 1]?.from ?? Infinity).toBeGreaterThanOrEqual(one.to);
          expect(open.filter((one) => one.meter === name).length).toBeLessThanOrEqual(1);
        }
      }),
    );
  });
});

describe('rating', () => {
  const month = monthNamed('2026-11', 'UTC');
  if (!month) throw new Error('November is a month');
  const usage = (over: Partial<Usage>): Usage => ({
    pool: 'p',
    meter: 'host',
    size: 's',
    stretch: month,
    amount: 3_600,
    ...over,
  });

  it('charges hours exactly: 720 h × 0.132', () => {
    const { lines, total } = charge(
      [usage({ amount: 720 * 3_600 })],
      [rate('0.132', '2026-01-01')],
      month,
      'EUR',
    );
    expect(total.minor).toBe(9_504);
    expect(lines[0]?.quantity).toBe(720);
  });

  it('prorates a month’s price by the second: half of November costs half', () => {
    const disk = usage({ meter: 'disk', size: null, amount: 100 * 15 * 86_400 });
    expect(charge([disk], [rate('0.07', '2026-01-01', null, 'disk')], month, 'EUR').total.minor).toBe(350);
  });

  describe('what is included', () => {
    const share = rate('0.11', '2026-01-01', null, 'share');
    const stay = { name: 'in Jetty 1', included: [{ meter: 'share', quantity: 100 }], from: 0, to: null };
    const days = 86_400;
    const charged = (used: Usage[], stays: IncludedWhile[]): number =>
      charge([...used, ...takenOff(used, [share], stays)], [share], month, 'EUR').total.minor;

    // Reckoned by hand at 0.11 a GiB-month: what is beyond 100 GiB, all month; for half of it, half of that.
    it.each([
      [250, 30, 1_650],
      [250, 15, 825],
      [100, 30, 0],
      [40, 30, 0],
      [0, 30, 0],
    ])('is taken off: %i GiB for %i days cost %i', (gib, length, minor) => {
      const used = [usage({ meter: 'share', size: null, amount: gib * length * days })];
      expect(charged(used, [{ ...stay, to: month.from + length * days * 1_000 }])).toBe(minor);
    });

    it('is no more than what was used, of all pools together, and has a line of its own', () => {
      const used = [
        usage({ pool: 'a', meter: 'share', size: null, amount: 70 * 30 * days }),
        usage({ pool: 'b', meter: 'share', size: null, amount: 50 * 30 * days }),
      ];
      const { lines, total } = charge([...used, ...takenOff(used, [share], [stay])], [share], month, 'EUR');
      expect(lines.map((line) => [line.pool, line.size, line.quantity, line.charge.minor])).toEqual([
        ['a', null, 70, 770],
        ['b', null, 50, 550],
        ['', 'in Jetty 1', -100, -1_100],
      ]);
      expect(total.minor).toBe(220);
    });

    it('belongs to the month’s use, whatever price changes in between: what is left over at first is had later', () => {
      const rates = [
        rate('0.10', '2026-01-01', '2026-11-11', 'share'),
        rate('0.20', '2026-11-11', null, 'share'),
      ];
      const used = cutsAt(month, rates, month.to).map((stretch, n) =>
        usage({ meter: 'share', size: null, stretch, amount: (n === 0 ? 40 * 10 : 250 * 20) * days }),
      );
      // 3,000 GiB-days are in the fee: ten days of 40 GiB, and 2,600 of the 5,000 after them; 2,400 × 0.20 / 30.
      expect(charge([...used, ...takenOff(used, rates, [stay])], rates, month, 'EUR').total.minor).toBe(
        1_600,
      );
      // Nothing until the 16th and 200 GiB after it is 100 GiB all month, though a host's price changes on that day.
      const late = cutsAt(
        month,
        [rate('9', '2026-01-01', '2026-11-16'), rate('8', '2026-11-16')],
        month.to,
      ).map((stretch, n) =>
        usage({ meter: 'share', size: null, stretch, amount: n === 0 ? 0 : 200 * 15 * days }),
      );
      expect(charged(late, [stay])).toBe(0);
    });

    it('is taken off what stands, all of one kind together', () => {
      const needs = [
        { meter: 'host', size: 's', quantity: 2 },
        { meter: 'share', size: null, quantity: 70 },
        { meter: 'disk', size: null, quantity: 40 },
        { meter: 'share', size: null, quantity: 50 },
      ];
      expect(paidNeeds(needs, stay.included)).toEqual([
        { meter: 'host', size: 's', quantity: 2 },
        { meter: 'share', size: null, quantity: 20 },
        { meter: 'disk', size: null, quantity: 40 },
      ]);
    });

    it('is nothing of what has no rate, nor of what is of another kind', () => {
      const disk = [usage({ meter: 'disk', size: null, amount: 5 })];
      expect(takenOff(disk, [share], [stay])).toEqual([]);
      expect(takenOff([usage({ meter: 'share', size: null })], [], [stay])).toEqual([]);
    });

    it('never makes a bill less than nothing', () => {
      const amounts = fc.array(fc.integer({ min: 0, max: 400 * 30 * days }), { maxLength: 6 });
      fc.assert(
        fc.property(amounts, fc.integer({ min: 1, max: 1_000 }), (list, quantity) => {
          const used = list.map((amount, n) =>
            usage({ pool: String(n), meter: 'share', size: null, amount }),
          );
          const off = takenOff(used, [share], [{ ...stay, included: [{ meter: 'share', quantity }] }]);
          const sum = [...used, ...off].reduce((all, one) => all + one.amount, 0);
          expect(sum).toBe(Math.max(0, list.reduce((a, b) => a + b, 0) - quantity * 30 * days));
        }),
        { numRuns: runs(200) },
      );
    });
  });

  it('uses each price from its date on', () => {
    const rates = [rate('0.10', '2026-01-01', '2026-11-11'), rate('0.20', '2026-11-11')];
    const cuts = cutsAt(month, rates, month.to);
    expect(cuts.map((cut) => cut.from)).toEqual([month.from, at('2026-11-11')]);
    const used = cuts.map((stretch) => usage({ stretch, amount: secondsOf(stretch) }));
    expect(charge(used, rates, month, 'EUR').total.minor).toBe(10 * 24 * 10 + 20 * 24 * 20);
    expect(rateFor(rates, 'host', 's', at('2026-11-10T23:59:59Z'))?.price).toBe('0.10');
  });

  it('cuts a month into stretches that fill it', () => {
    fc.assert(
      fc.property(
        fc.array(fc.integer({ min: -10, max: 40 }), { maxLength: 8 }),
        fc.integer({ min: 0, max: 30 }),
        (days, until) => {
          const rates = days.map((day) => ({
            ...rate('1', '2026-01-01'),
            from: month.from + day * 86_400_000,
          }));
          const end = month.from + until * 86_400_000;
          const cuts = cutsAt(month, rates, end);
          expect(cuts.reduce((sum, cut) => sum + secondsOf(cut), 0)).toBe(until * 86_400);
          for (const [i, cut] of cuts.entries()) expect(cuts[i + 1]?.from ?? cut.to).toBe(cut.to);
        },
      ),
    );
  });

  it('has no stretch in a month that has not begun', () => {
    expect(cutsAt(month, [rate('1', '2026-01-01')], month.from)).toEqual([]);
    expect(cutsAt(month, [rate('1', '2026-01-01')], month.from - 86_400_000)).toEqual([]);
  });

  it('makes one line of what one price holds for, rounded once', () => {
    const half = (month.from + month.to) / 2;
    const usages = [
      usage({ stretch: { from: month.from, to: half }, amount: 1_234_567 }),
      usage({ stretch: { from: half, to: month.to }, amount: 7_654_321 }),
    ];
    const { lines } = charge(usages, [rate('0.0371', '2026-01-01')], month, 'EUR');
    expect(lines).toHaveLength(1);
    expect(lines[0]?.stretch).toEqual({ from: month.from, to: month.to });
    expect(lines[0]?.charge.minor).toBe(Math.round((8_888_888 / 3_600) * 3.71));
  });

  it('names usage without a rate instead of charging nothing in silence', () => {
    const { unpriced, total } = charge([usage({ size: 'unknown' })], [rate('1', '2026-01-01')], month, 'EUR');
    expect(unpriced).toHaveLength(1);
    expect(total.minor).toBe(0);
  });

  it('has a total that is the sum of its lines', () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 0, max: 10 ** 10 }), { maxLength: 30 }), (amounts) => {
        const { lines, total } = charge(
          amounts.map((amount, i) => usage({ amount, pool: `p${i}` })),
          [rate('0.0371', '2026-01-01')],
          month,
          'EUR',
        );
        expect(lines.reduce((sum, line) => sum + line.charge.minor, 0)).toBe(total.minor);
      }),
    );
  });

  it('prices needs by an average month', () => {
    const { lines, unpriced } = monthlyCost(
      [
        { meter: 'host', size: 's', quantity: 3 },
        { meter: 'share', size: null, quantity: 5 },
      ],
      [rate('0.1', '2026-01-01')],
      at('2026-11-05'),
      'EUR',
    );
    expect(lines[0]?.amount.minor).toBe(21_900);
    expect(unpriced).toHaveLength(1);
  });
});

describe('forecast', () => {
  const month = monthNamed('2026-11', 'UTC');
  if (!month) throw new Error('November is a month');
  const day = (offset: number, cost: number) => {
    const [one] = daysOf(
      { from: month.from + offset * 86_400_000, to: month.from + offset * 86_400_000 + 1 },
      'UTC',
    );
    if (!one) throw new Error('a day');
    return { ...one, minor: cost };
  };

  it('adds for each day left what the same weekday usually costs', () => {
    // 2026-11-01 is a Sunday: weekdays cost 100, Saturdays and Sundays 10.
    const cost = (offset: number): number => ([0, 6].includes((offset + 28) % 7) ? 10 : 100);
    const past = Array.from({ length: 28 }, (_, i) => day(i - 14, cost(i - 14)));
    const now = month.from + 14 * 86_400_000;
    const soFar = past.filter((one) => one.from >= month.from).reduce((sum, one) => sum + one.minor, 0);
    const whole = Array.from({ length: 30 }, (_, i) => cost(i)).reduce((a, b) => a + b, 0);
    expect(forecastMonth(money(soFar, 'EUR'), past, month, now, 0).minor).toBe(whole);
  });

  it('of a month that is over is what it cost', () =>
    expect(forecastMonth(money(77, 'EUR'), [], month, month.to + 1, 0).minor).toBe(77));

  it('without a past goes on as the month began', () =>
    expect(forecastMonth(money(100, 'EUR'), [], month, month.from + 10 * 86_400_000, 0).minor).toBe(300));

  it('of a customer who came yesterday at noon goes on from yesterday at noon, not from the first of the month', () => {
    // A day and a half cost 150: 100 a day, and ten days are left.
    const now = month.from + 20 * 86_400_000;
    expect(forecastMonth(money(150, 'EUR'), [], month, now, now - 1.5 * 86_400_000).minor).toBe(1_150);
  });
});

// The IANA time zone database: Cuba sets its clocks back at 01:00 to 00:00 on 1 November 2026 (file northamerica, rule
// Cuba), Paraguay set them forward at 00:00 on 1 October 2023 (southamerica, rule Para), Samoa left out 30 December 2011.
describe('months and days where clocks change at midnight', () => {
  const HOURS = 3_600_000;
  const hoursOf = (key: string, zone: string): number => {
    const month = monthNamed(key, zone);
    return month ? (month.to - month.from) / HOURS : Number.NaN;
  };

  it('a month whose first midnight comes twice begins with the first of the two', () => {
    expect(monthNamed('2026-11', 'America/Havana')?.from).toBe(Date.UTC(2026, 10, 1, 4));
    expect(hoursOf('2026-11', 'America/Havana')).toBe(30 * 24 + 1);
    expect(hoursOf('2026-10', 'America/Havana')).toBe(31 * 24);
  });

  it('a month whose first midnight is left out begins when clocks are set forward', () => {
    expect(monthNamed('2023-10', 'America/Asuncion')?.from).toBe(Date.UTC(2023, 9, 1, 4));
    expect(hoursOf('2023-10', 'America/Asuncion')).toBe(31 * 24 - 1);
    expect(hoursOf('2023-11', 'America/Asuncion')).toBe(30 * 24);
  });

  it('a date that was left out is no day', () => {
    const days = daysOf({ from: Date.UTC(2011, 11, 29, 12), to: Date.UTC(2011, 11, 31, 12) }, 'Pacific/Apia');
    expect(days.map((day) => day.date)).toEqual(['2011-12-29', '2011-12-31', '2012-01-01']);
    expect(days[0]?.to).toBe(days[1]?.from);
  });

  it('months follow each other without gap or overlap, each with the days that fill it, in every zone', () => {
    const zones = Intl.supportedValuesOf('timeZone');
    fc.assert(
      fc.property(
        fc.constantFrom(...zones),
        fc.integer({ min: 1990, max: 2035 }),
        fc.integer({ min: 1, max: 12 }),
        (zone, year, month) => {
          const key = (y: number, m: number): string => `${y}-${String(m).padStart(2, '0')}`;
          const [one, next] = [
            monthNamed(key(year, month), zone),
            monthNamed(month === 12 ? key(year + 1, 1) : key(year, month + 1), zone),
          ];
          if (!one || !next) throw new Error('a month');
          expect([zone, one.key, one.to]).toEqual([zone, one.key, next.from]);
          const inside = daysOf(one, zone);
          expect([inside[0]?.from, inside.at(-1)?.to]).toEqual([one.from, one.to]);
          for (const [i, day] of inside.entries()) expect(day.from).toBe(inside[i - 1]?.to ?? one.from);
          expect(monthOf(one.from, zone).key).toBe(one.key);
          expect(monthOf(one.to - 1, zone).key).toBe(one.key);
        },
      ),
      { numRuns: runs(400) },
    );
  });
});

describe('a price with something on it', () => {
  it('is exact, and rounded half to even at the sixth place', () => {
    expect(markedUp('0.044', 40)).toBe('0.0616');
    expect(markedUp('0.1', 20)).toBe('0.12');
    expect(markedUp('0.000005', 50)).toBe('0.000008');
    expect(markedUp('0.000003', 50)).toBe('0.000004');
    expect([markedUp('4', 0), markedUp('4', -100), markedUp('999999', 33.3)]).toEqual([
      '4',
      '0',
      '1332998.667',
    ]);
    expect(() => markedUp('4', -101)).toThrow(RangeError);
  });

  it('leaves its margin, which is of what is charged and not of what is paid', () => {
    expect(marginOf('0.0616', '0.044')).toBe(0.2857);
    expect(marginOf('0.044', '0.0616')).toBe(-0.4);
    expect(marginOf('0', '1')).toBeUndefined();
  });
});
