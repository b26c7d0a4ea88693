import fc from 'fast-check';
import loadHighs from 'highs';
import { describe, expect, it } from 'vitest';
import type { MachineSize } from '../../src/core/machines';
import { money } from '../../src/core/money';
import {
  benchOf,
  blocking,
  carriedBy,
  judgePool,
  measuredConcurrency,
  mixOf,
  packedHosts,
  PROFILE_KEYS,
  seatsOn,
  spareSeats,
  SYSTEM_MEMORY_GIB,
  WORK_PROFILES,
  type OfferedSize,
  type WorkGroup,
} from '../../src/core/sizing';

const SIZES = [
  { key: 's2x8', vcpu: 2, memoryGiB: 8 },
  { key: 's4x16', vcpu: 4, memoryGiB: 16 },
  { key: 's8x32', vcpu: 8, memoryGiB: 32 },
  { key: 's16x64', vcpu: 16, memoryGiB: 64 },
];
const offered = (prices: readonly number[], fixed = 0): OfferedSize[] =>
  SIZES.map((size, n) => ({
    site: 'KQ',
    size,
    monthlyOf: (hosts) => money(fixed + (prices[n] ?? 0) * hosts, 'EUR'),
  }));
const group = (profile: keyof typeof WORK_PROFILES, people: number, concurrency = 1): WorkGroup => ({
  profile: WORK_PROFILES[profile],
  people,
  concurrency,
});
const groups = fc.array(
  fc.record({
    profile: fc.constantFrom(...PROFILE_KEYS).map((key) => WORK_PROFILES[key]),
    people: fc.integer({ min: 1, max: 200 }),
    concurrency: fc.integer({ min: 5, max: 100 }).map((part) => part / 100),
  }),
  { minLength: 1, maxLength: 4 },
);

describe('Erlang’s B formula', () => {
  // Erlang B tables as published (ITU-T E-series handbooks): the load that so many servers carry at a blocking of 1 %.
  it.each([
    [1, 0.0101],
    [2, 0.153],
    [5, 1.36],
    [10, 4.46],
    [20, 12.0],
    [50, 37.9],
    [100, 84.1],
  ])('%i servers carry %f erlangs at one in a hundred', (servers, load) => {
    expect(blocking(servers, load)).toBeCloseTo(0.01, 3);
  });

  it('is the formula as it is written, where that can be reckoned', () =>
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: 15 }),
        fc.double({ min: 0.1, max: 20, noNaN: true }),
        (n, load) => {
          const term = (k: number): number => {
            let found = 1;
            for (let i = 1; i <= k; i++) found *= load / i;
            return found;
          };
          const all = Array.from({ length: n + 1 }, (_, k) => term(k)).reduce((a, b) => a + b, 0);
          expect(blocking(n, load)).toBeCloseTo(term(n) / all, 9);
        },
      ),
    ));

  it('keeps the fewest seats ready that are enough', () =>
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 600 }),
        fc.integer({ min: 1, max: 20 }),
        fc.constantFrom(0.001, 0.01, 0.05, 0.2),
        (arrivals, boot, most) => {
          const seats = spareSeats(arrivals, boot, most);
          const load = (arrivals * boot) / 60;
          expect(blocking(seats, load)).toBeLessThanOrEqual(most);
          expect(blocking(seats - 1, load)).toBeGreaterThan(most);
        },
      ),
    ));

  it('keeps none ready where nobody comes', () =>
    expect([spareSeats(0, 5, 0.01), spareSeats(60, 0, 0.01), blocking(0, 1), blocking(3, 0)]).toEqual([
      0, 0, 1, 0,
    ]));
});

describe('the sizing bench', () => {
  it('takes several kinds of work in one pool as the average of who is in', () => {
    // 10 standard (a quarter of a vCPU each) and 10 heavy (half): on 8 vCPU and 32 GiB memory binds: 30 / 2.5.
    const mix = mixOf([group('standard', 10), group('heavy', 10)]);
    expect(mix?.peak).toBe(20);
    expect(seatsOn({ key: 'x', vcpu: 8, memoryGiB: 512 }, mix?.need ?? WORK_PROFILES.light).seats).toBe(21);
    expect(seatsOn({ key: 'x', vcpu: 8, memoryGiB: 32 }, mix?.need ?? WORK_PROFILES.light)).toEqual({
      seats: 12,
      binding: 'memory',
    });
  });

  // Common practice, no source: 30 people at ten a host are three hosts; one of three lost hits ten, of four, eight.
  it('tells who is hit by the loss of a host, under spread and fill', () => {
    const [offer] = offered([100]);
    const points = benchOf({
      groups: [group('light', 30)],
      offers: offer ? [offer] : [],
      spareSeats: 0,
      mostSeats: 10,
    });
    // 2 vCPU and 8 GiB carry six of light work: memory.
    expect(
      points.map(({ hosts, arrival, peopleHit, spareHosts }) => [hosts, arrival, peopleHit, spareHosts]),
    ).toEqual([
      [5, 'fill', 6, 0],
      [5, 'spread', 6, 0],
      [6, 'spread', 5, 1],
      [6, 'fill', 6, 1],
      [7, 'spread', 5, 2],
      [7, 'fill', 6, 2],
    ]);
  });

  // Common practice, no source: 30 people, each with a host of their own, are 30 hosts.
  it('has a host for each where everyone has their own, whether they are in at once or not', () => {
    const [offer] = offered([100]);
    const asked = { groups: [group('standard', 30, 0.5)], offers: offer ? [offer] : [], mostSeats: 1 };
    const points = benchOf({ ...asked, spareSeats: 5 });
    expect(new Set(points.map(({ hosts, seats, peopleHit }) => `${hosts} ${seats} ${peopleHit}`))).toEqual(
      new Set(['30 1 1']),
    );
    expect(carriedBy(30, SIZES[0] as (typeof SIZES)[number], asked.groups, 0, 1).people).toBe(30);
  });

  it('makes those faint that another beats in everything, and no other', () =>
    fc.assert(
      fc.property(
        groups,
        fc.array(fc.integer({ min: 1, max: 9_999 }), { minLength: 4, maxLength: 4 }),
        (all, prices) => {
          const points = benchOf({ groups: all, offers: offered(prices), spareSeats: 0 });
          for (const one of points) {
            const better = points.filter(
              (other) =>
                other.monthly.minor <= one.monthly.minor &&
                other.peopleHit <= one.peopleHit &&
                other.spareHosts >= one.spareHosts &&
                (other.monthly.minor < one.monthly.minor ||
                  other.peopleHit < one.peopleHit ||
                  other.spareHosts > one.spareHosts),
            );
            expect(one.isBeaten).toBe(better.length > 0);
          }
          expect(points.filter((one) => !one.isBeaten).length).toBeGreaterThan(0);
        },
      ),
    ));

  /** Hosts for people taken one by one, who needs most first, each put on the first host with room: by definition. */
  function firstFit(size: MachineSize, all: readonly WorkGroup[]): number | undefined {
    const need = ({ profile: p }: WorkGroup): readonly number[] => [
      1 / p.peoplePerVcpu / size.vcpu,
      p.memoryGiB / (size.memoryGiB - SYSTEM_MEMORY_GIB),
      p.diskOperations / 1_000,
    ];
    const people = all
      .flatMap((one) =>
        Array.from({ length: Math.ceil(Number((one.people * one.concurrency).toFixed(9))) }, () => need(one)),
      )
      .sort((a, b) => Math.max(...b) - Math.max(...a));
    const hosts: number[][] = [];
    for (const person of people) {
      if (person.some((part) => part > 1 + 1e-9)) return undefined;
      const host = hosts.find((one) => one.every((used, n) => used + (person[n] ?? 0) <= 1 + 1e-9));
      if (host) person.forEach((part, n) => (host[n] = (host[n] ?? 0) + part));
      else hosts.push([...person]);
    }
    return hosts.length;
  }

  it('never carries a mix on fewer hosts than people fit on one by one', async () => {
    const highs = await loadHighs();
    const few = fc.array(
      fc.record({
        profile: fc.constantFrom(
          WORK_PROFILES.light,
          WORK_PROFILES.standard,
          WORK_PROFILES.heavy,
          WORK_PROFILES.graphics,
        ),
        people: fc.integer({ min: 1, max: 5 }),
        concurrency: fc.constant(1),
      }),
      { minLength: 1, maxLength: 3 },
    );
    fc.assert(
      fc.property(few, fc.constantFrom(...SIZES), (all, size) => {
        const packed = packedHosts(size, all);
        const least = firstFit(size, all);
        expect(packed).toBe(least);
        if (packed === undefined) return;
        // The exact least number of hosts, by integer programming: person by person, host by host.
        const H = Array.from({ length: packed }, (_, h) => h);
        const of = (text: (g: number) => string): string => all.map((_, g) => text(g)).join(' + ');
        const problem = [
          'Minimize',
          ` obj: ${H.map((h) => `y${h}`).join(' + ')}`,
          'Subject To',
          ...all.map(({ people }, g) => ` all${g}: ${H.map((h) => `x${h}g${g}`).join(' + ')} = ${people}`),
          ...H.flatMap((h) => [
            ` v${h}: ${of((g) => `${1 / (all[g]?.profile.peoplePerVcpu ?? 1)} x${h}g${g}`)} - ${size.vcpu} y${h} <= 0`,
            ` m${h}: ${of((g) => `${all[g]?.profile.memoryGiB ?? 0} x${h}g${g}`)} - ${size.memoryGiB - SYSTEM_MEMORY_GIB} y${h} <= 0`,
            ` d${h}: ${of((g) => `${all[g]?.profile.diskOperations ?? 0} x${h}g${g}`)} - 1000 y${h} <= 0`,
          ]),
          'General',
          ` ${H.flatMap((h) => all.map((_, g) => `x${h}g${g}`)).join(' ')}`,
          'Binary',
          ` ${H.map((h) => `y${h}`).join(' ')}`,
          'End',
        ].join('\n');
        const best = Math.round(highs.solve(problem).ObjectiveValue);
        expect(packed).toBeGreaterThanOrEqual(best);
        expect(packed).toBeLessThanOrEqual(best + 1);
        for (const point of benchOf({
          groups: all,
          offers: [{ site: 'KQ', size, monthlyOf: (n) => money(n, 'EUR') }],
          spareSeats: 0,
        }))
          expect(point.hosts).toBeGreaterThanOrEqual(best);
      }),
      { numRuns: 40 },
    );
    // The average of four light and one graphics person fits where the graphics person alone does not.
    const mix = [
      { profile: WORK_PROFILES.light, people: 4, concurrency: 1 },
      { profile: WORK_PROFILES.graphics, people: 1, concurrency: 1 },
    ];
    const small = { key: 's2x4', vcpu: 2, memoryGiB: 4 };
    expect(
      benchOf({
        groups: mix,
        offers: [{ site: 'KQ', size: small, monthlyOf: (n) => money(n, 'EUR') }],
        spareSeats: 0,
      }),
    ).toEqual([]);
  });

  it('judges and counts in whole numbers', () => {
    // A tenth more than 50 is 55: eleven hosts of five, and one to spare.
    expect(judgePool({ hosts: 12, seats: 5, peak: 50 })).toEqual({ verdict: 'right', needed: 12, hosts: 0 });
    expect(measuredConcurrency(11, 20)).toBe(0.55);
    const tiny = { ...WORK_PROFILES.light, memoryGiB: 0.1 };
    expect(seatsOn({ key: 'x', vcpu: 64, memoryGiB: 6.9 }, tiny).seats).toBe(49);
  });

  it('finds the cheapest, also where there are whole costs besides the hosts', async () => {
    const highs = await loadHighs();
    await fc.assert(
      fc.asyncProperty(
        groups,
        fc.array(fc.integer({ min: 100, max: 9_999 }), { minLength: 4, maxLength: 4 }),
        fc.integer({ min: 0, max: 5_000 }),
        fc.integer({ min: 0, max: 10 }),
        async (all, prices, fixed, spare) => {
          const offers = offered(prices, fixed);
          const points = benchOf({ groups: all, offers, spareSeats: spare });
          const mix = mixOf(all);
          if (!mix) return;
          // One size is taken (y), and so many hosts of it (x): enough vCPU, memory and disk operations for whole seats.
          const seats = SIZES.map((size) => {
            const { need } = mix;
            const most = Math.min(
              size.vcpu * need.peoplePerVcpu,
              (size.memoryGiB - SYSTEM_MEMORY_GIB) / need.memoryGiB,
              1_000 / need.diskOperations,
            );
            // A whole number but for the way it is reckoned is one.
            return Math.floor(most + 1e-9);
          });
          const packed = SIZES.map((size) => firstFit(size, all));
          const vars = SIZES.map((_, n) => n).filter((n) => (seats[n] ?? 0) > 0 && packed[n] !== undefined);
          if (vars.length === 0) {
            expect(points).toEqual([]);
            return;
          }
          const problem = [
            'Minimize',
            ` obj: ${vars.map((n) => `${prices[n] ?? 0} x${n}`).join(' + ')}`,
            'Subject To',
            ` enough: ${vars.map((n) => `${seats[n] ?? 0} x${n}`).join(' + ')} >= ${mix.peak + spare}`,
            ` one: ${vars.map((n) => `y${n}`).join(' + ')} = 1`,
            ...vars.map((n) => ` only${n}: x${n} - 2000 y${n} <= 0`),
            // Whole people: what fits on average may not fit one by one.
            ...vars.map((n) => ` whole${n}: x${n} - ${packed[n] ?? 0} y${n} >= 0`),
            'General',
            ` ${vars.map((n) => `x${n}`).join(' ')}`,
            'Binary',
            ` ${vars.map((n) => `y${n}`).join(' ')}`,
            'End',
          ].join('\n');
          const best = highs.solve(problem);
          expect(points[0]?.monthly.minor).toBe(Math.round(best.ObjectiveValue) + fixed);
        },
      ),
      { numRuns: 60 },
    );
  });

  it('says the other way round how many hosts carry', () => {
    const all = [group('standard', 40, 0.5), group('heavy', 10, 0.5)];
    const [offer] = offered([1]);
    const points = benchOf({ groups: all, offers: offer ? [offer] : [], spareSeats: 0 });
    const [enough] = points;
    // What is enough for them carries at least them, and one host less does not.
    const size = SIZES[0] as (typeof SIZES)[number];
    expect(carriedBy(enough?.hosts ?? 0, size, all, 0).people).toBeGreaterThanOrEqual(50);
    expect(carriedBy((enough?.hosts ?? 0) - 1, size, all, 0).people).toBeLessThan(50);
    expect(carriedBy(1, size, all, 1).people).toBe(0);
    expect(carriedBy(3, size, [], 0)).toEqual({ atOnce: 0, people: 0, binding: 'vCPU' });
  });
});

describe('what was measured', () => {
  it.each([
    [
      { hosts: 10, seats: 10, peak: 41 },
      { verdict: 'too big', needed: 6, hosts: 4 },
    ],
    [
      { hosts: 4, seats: 10, peak: 41 },
      { verdict: 'too small', needed: 6, hosts: 2 },
    ],
    [
      { hosts: 6, seats: 10, peak: 41 },
      { verdict: 'right', needed: 6, hosts: 0 },
    ],
    [
      { hosts: 2, seats: 10, peak: 0 },
      { verdict: 'right', needed: 2, hosts: 0 },
    ],
    // Everyone's own: that some stay at home makes none of them too many.
    [
      { hosts: 30, seats: 1, peak: 12, mostSeats: 1 },
      { verdict: 'right', needed: 30, hosts: 0 },
    ],
  ])('%j is %j', (pool, verdict) => expect(judgePool(pool)).toEqual(verdict));

  it('is a part of who is known, never none and never more than all', () =>
    expect([
      measuredConcurrency(41, 96),
      // A third, in whole percent: rounded down, one of those who were in would have no seat.
      measuredConcurrency(10, 30),
      measuredConcurrency(1, 1_000),
      measuredConcurrency(0, 96),
      measuredConcurrency(120, 96),
      measuredConcurrency(3, 0),
    ]).toEqual([0.43, 0.34, 0.01, 0.01, 1, 1]));
});
