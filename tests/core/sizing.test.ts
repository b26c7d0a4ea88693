import { describe, expect, it } from 'vitest';
import { compareSizes, hostsFor, peakOf, seatsOn, WORK_PROFILES, writeSize } from '../../src/core/sizing';

const sizes = [
  { key: 's', vcpu: 2, memoryGiB: 8, hourly: '0.066' },
  { key: 'm', vcpu: 4, memoryGiB: 16, hourly: '0.132' },
  { key: 'l', vcpu: 8, memoryGiB: 32, hourly: '0.256' },
];

const ask = (people: number, profile: keyof typeof WORK_PROFILES = 'standard', mostSeats?: number) =>
  compareSizes({
    people,
    concurrency: 1,
    profile: WORK_PROFILES[profile],
    sizes,
    currency: 'EUR',
    hoursOn: 730,
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

describe('alternatives', () => {
  it('chooses the cheapest that keeps everyone in when one host fails', () => {
    const { chosen, alternatives } = ask(12);
    expect(chosen?.keepsOneSpare).toBe(true);
    for (const one of alternatives.filter((other) => other.keepsOneSpare))
      expect(chosen?.monthly.minor).toBeLessThanOrEqual(one.monthly.minor);
  });

  it('keeps none that another beats on money and on people hit', () => {
    const { alternatives } = ask(60, 'heavy');
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
    const found = ask(12).alternatives.find((one) => one.size.key === 's' && one.hosts === 5);
    expect(found?.monthly.minor).toBe(24_090);
  });

  it('has no answer for nobody, nor where no size will do', () => {
    expect(ask(0).chosen).toBeUndefined();
    expect(ask(5, 'standard', 0).chosen).toBeUndefined();
  });

  it('writes a size by what it holds', () =>
    expect(writeSize({ vcpu: 4, memoryGiB: 16 })).toBe('4 vCPU · 16 GiB'));
});
