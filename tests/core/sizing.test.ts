import { describe, expect, it } from 'vitest';
import fc from 'fast-check';
import { money, priced, type Money } from '../../src/core/money';
import { writeSize } from '../../src/core/machines';
import {
  compareSizes,
  hostsFor,
  peakOf,
  seatsOn,
  WORK_PROFILES,
  type Alternative,
  type SizingAnswer,
} from '../../src/core/sizing';

const sizes = [
  { key: 's', vcpu: 2, memoryGiB: 8, hourly: '0.066' },
  { key: 'm', vcpu: 4, memoryGiB: 16, hourly: '0.132' },
  { key: 'l', vcpu: 8, memoryGiB: 32, hourly: '0.256' },
];

/** Always on: hours of an average month, 8760 / 12. */
const hourly = (key: string, hosts: number): Money =>
  priced(sizes.find((one) => one.key === key)?.hourly ?? '0', hosts * 730, 1, 'EUR');

const ask = (people: number, profile: keyof typeof WORK_PROFILES = 'standard', mostSeats?: number) =>
  compareSizes({
    people,
    concurrency: 1,
    profile: WORK_PROFILES[profile],
    sizes,
    monthlyOf: (size, hosts) => hourly(size.key, hosts),
    arrival: 'spread',
    ...(mostSeats === undefined ? {} : { mostSeats }),
  });

describe('hosts', () => {
  // Common practice, no source: these three.
  it('needs four for 20 people at five seats', () => expect(hostsFor(20, 5)).toBe(4));
  it('needs three shared ones for 30 people at ten seats', () => expect(hostsFor(30, 10)).toBe(3));
  it('needs 30 personal ones for 30 people', () => expect(hostsFor(30, 1)).toBe(30));

  it('counts the busiest moment up, and not by the dust of binary fractions', () => {
    expect(peakOf(20, 0.85)).toBe(17);
    expect(peakOf(100, 0.07)).toBe(7);
    expect(peakOf(3, 0.5)).toBe(2);
  });
});

describe('seats', () => {
  // People per vCPU: light 6, standard 4, heavy 2, graphics 1 (from memory of published sizing guidance).
  it.each([
    ['light', 6],
    ['standard', 4],
    ['heavy', 2],
    ['graphics', 1],
  ] as const)('%s work: %i people a vCPU where memory is plenty', (profile, perVcpu) =>
    expect(seatsOn({ key: 'x', vcpu: 4, memoryGiB: 512 }, WORK_PROFILES[profile])).toEqual({
      seats: 4 * perVcpu,
      binding: 'vCPU',
    }),
  );

  it('says what binds', () => {
    expect(seatsOn({ key: 'x', vcpu: 64, memoryGiB: 8 }, WORK_PROFILES.standard)).toEqual({
      seats: 3,
      binding: 'memory',
    });
    expect(seatsOn({ key: 'x', vcpu: 64, memoryGiB: 512 }, WORK_PROFILES.light).binding).toBe(
      'disk operations',
    );
    expect(seatsOn({ key: 'x', vcpu: 64, memoryGiB: 512 }, WORK_PROFILES.light, 5)).toEqual({
      seats: 5,
      binding: 'seats set by hand',
    });
  });

  it('has none on a size too small', () =>
    expect(seatsOn({ key: 'x', vcpu: 1, memoryGiB: 2 }, WORK_PROFILES.graphics).seats).toBe(0));
});

const unbeaten = ({ all }: SizingAnswer): Alternative[] => all.filter((one) => !one.isBeaten);

describe('alternatives', () => {
  it('chooses the cheapest that keeps everyone in when one host fails', () => {
    const { chosen, all } = ask(12);
    expect(chosen?.keepsOneSpare).toBe(true);
    for (const one of all.filter((other) => other.keepsOneSpare))
      expect(chosen?.monthly.minor).toBeLessThanOrEqual(one.monthly.minor);
  });

  it('keeps none that another beats on money and on people hit', () => {
    const alternatives = unbeaten(ask(60, 'heavy'));
    for (const a of alternatives)
      for (const b of alternatives)
        expect(
          a !== b &&
            a.monthly.minor < b.monthly.minor &&
            a.hitByOneLoss < b.hitByOneLoss &&
            a.keepsOneSpare >= b.keepsOneSpare,
        ).toBe(false);
    expect(alternatives.length).toBeGreaterThan(1);
  });

  it('counts money over the hours on: 5 hosts × 730 h × 0.066', () => {
    const found = ask(12).all.find((one) => one.size.key === 's' && one.hosts === 5);
    expect(found?.monthly.minor).toBe(24_090);
    // 15 seats: 16.06 each.
    expect([found?.seats, found?.monthlyPerSeat.minor]).toEqual([3, 1_606]);
  });

  it('takes the whole of what hosts cost: with dear disks the fewest hosts, with free ones the cheapest hours', () => {
    const withDisks = (perDisk: number) =>
      compareSizes({
        people: 40,
        concurrency: 1,
        profile: WORK_PROFILES.standard,
        sizes,
        monthlyOf: (size, hosts) => money(hourly(size.key, hosts).minor + hosts * perDisk, 'EUR'),
        arrival: 'spread',
      }).chosen;
    expect(withDisks(0)?.size.key).toBe('m');
    expect(withDisks(20_000)?.size.key).toBe('l');
    // Whatever the prices: nothing that keeps N+1 is cheaper than what was chosen.
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 400 }), fc.nat({ max: 30_000 }), (people, perDisk) => {
        const { all, chosen } = compareSizes({
          people,
          concurrency: 0.8,
          profile: WORK_PROFILES.standard,
          sizes,
          monthlyOf: (size, hosts) => money(hourly(size.key, hosts).minor + hosts * perDisk, 'EUR'),
          arrival: 'fill',
        });
        const spare = all.filter((one) => one.keepsOneSpare).map((one) => one.monthly.minor);
        expect(chosen?.monthly.minor).toBe(Math.min(...spare));
      }),
    );
  });

  it('counts whom one loss hits on the fullest host: full under fill, the rounded-up part under spread', () => {
    const hit = (arrival: 'spread' | 'fill', people: number) =>
      compareSizes({
        people,
        concurrency: 1,
        profile: WORK_PROFILES.standard,
        sizes: sizes.slice(0, 1),
        monthlyOf: (size, hosts) => hourly(size.key, hosts),
        arrival,
      }).all.map((one) => [one.hosts, one.hitByOneLoss * people]);
    // Three seats a host: 7 people on 3 hosts are 3, 2, 2 spread, and 3, 3, 1 filled; on 4 hosts 2, 2, 2, 1 spread.
    expect(hit('spread', 7)).toEqual([
      [3, 3],
      [4, 2],
    ]);
    expect(hit('fill', 7)).toEqual([
      [3, 3],
      [4, 3],
    ]);
    expect(hit('fill', 2)).toEqual([
      [1, 2],
      [2, 2],
    ]);
  });

  it('gives everyone in a personal pool a host of their own, and none stands by', () => {
    const personal = compareSizes({
      people: 3,
      concurrency: 0.5,
      profile: WORK_PROFILES.graphics,
      sizes,
      monthlyOf: (size, hosts) => hourly(size.key, hosts),
      arrival: 'spread',
      mostSeats: 1,
    });
    expect(personal.chosen).toMatchObject({ hosts: 3, seats: 1, hitByOneLoss: 1 / 3 });
    expect(personal.all.map((one) => one.hosts)).toEqual([3, 3, 3].slice(0, personal.all.length));
  });

  it('has no answer for nobody, nor where no size will do', () => {
    expect(ask(0).chosen).toBeUndefined();
    expect(ask(5, 'standard', 0).chosen).toBeUndefined();
  });

  it('writes a size by what it holds', () =>
    expect(writeSize({ vcpu: 4, memoryGiB: 16 })).toBe('4 vCPU · 16 GiB'));
});

describe('of two that cost the same', () => {
  const { chosen, all } = compareSizes({
    people: 24,
    concurrency: 1,
    profile: WORK_PROFILES.standard,
    sizes: [
      { key: 'large', vcpu: 4, memoryGiB: 512 },
      { key: 'small', vcpu: 2, memoryGiB: 512 },
    ],
    monthlyOf: () => money(1_000, 'EUR'),
    arrival: 'spread',
  });

  it('the one whose loss hits fewer people is taken', () => {
    expect(chosen?.size.key).toBe('small');
    expect(chosen?.hitByOneLoss).toBe(Math.min(...all.map((one) => one.hitByOneLoss)));
  });
});

describe('of two that cost the same and hit as many', () => {
  // 10 people: five hosts of three seats, or six of two; either way a host that fails has two of them.
  const { chosen } = compareSizes({
    people: 10,
    concurrency: 1,
    profile: WORK_PROFILES.graphics,
    sizes: [
      { key: 'two', vcpu: 2, memoryGiB: 512 },
      { key: 'three', vcpu: 3, memoryGiB: 512 },
    ],
    monthlyOf: () => money(1_000, 'EUR'),
    arrival: 'spread',
  });

  it('the one with fewer hosts is taken', () =>
    expect([chosen?.size.key, chosen?.hosts]).toEqual(['three', 5]));
});

describe('of all that would do', () => {
  it('what another beats is told', () => {
    for (const people of [3, 12, 17, 40, 96])
      for (const arrival of ['spread', 'fill'] as const) {
        const { all } = compareSizes({
          people,
          concurrency: 0.9,
          profile: WORK_PROFILES.standard,
          sizes: [...sizes].reverse(),
          monthlyOf: (size, hosts) => hourly(size.key, hosts),
          arrival,
        });
        const marks = all.map(
          (one) => [one.monthly.minor, one.hitByOneLoss, one.keepsOneSpare ? 0 : 1] as const,
        );
        // Pareto: no worse in anything, and better in something.
        const beaten = marks.map((one) =>
          marks.some(
            (other) =>
              other.every((mark, n) => mark <= (one[n] ?? 0)) &&
              other.some((mark, n) => mark < (one[n] ?? 0)),
          ),
        );
        expect(all.map((one) => one.isBeaten)).toEqual(beaten);
      }
  });

  it('the first of two things that bind alike is told', () => {
    const { profile, size } = { profile: WORK_PROFILES.heavy, size: { key: 'x', vcpu: 4, memoryGiB: 512 } };
    expect(seatsOn(size, profile, 8)).toEqual({ seats: 8, binding: 'vCPU' });
    expect(seatsOn(size, profile, 7)).toEqual({ seats: 7, binding: 'seats set by hand' });
  });
});
