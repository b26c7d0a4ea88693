import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { durationKey, durationOf, expected, type Durations } from '../../src/core/durations';
import type { Facts } from '../../src/core/facts';
import { impactLine, type Proposal } from '../../src/core/planning';
import { plain } from '../../src/core/money';
import { facts, proposed } from './setup/facts';

describe('how long something takes', () => {
  // The nearest-rank method, worked example of the ordered list 15, 20, 35, 40, 50: the 30th percentile is 20, the 50th 35.
  it('is the middle of what was measured, and by when nine of ten were done', () => {
    expect(durationOf([50, 20, 35, 15, 40])).toEqual({ count: 5, median: 35, late: 50 });
    expect(durationOf([7])).toEqual({ count: 1, median: 7, late: 7 });
    expect(durationOf([])).toBeUndefined();
    expect(durationOf(Array.from({ length: 100 }, (_, n) => 100 - n))).toEqual({
      count: 100,
      median: 50,
      late: 90,
    });
  });

  it('leaves at least half below the median and nine of ten below the other', () =>
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 0, max: 9_999 }), { minLength: 1 }), (all) => {
        const { median = -1, late = -1 } = durationOf(all) ?? {};
        const below = (most: number): number => all.filter((one) => one <= most).length / all.length;
        expect(below(median)).toBeGreaterThanOrEqual(0.5);
        expect(below(late)).toBeGreaterThanOrEqual(0.9);
        expect(all).toContain(median);
        expect(late).toBeGreaterThanOrEqual(median);
      }),
    ));

  it('is as usual until there are ten', () => {
    const learnt = (count: number): Durations => ({ 'host make s': { count, median: 400, late: 700 } });
    const key = durationKey('host', 'make', 's');
    expect(expected(learnt(9), key, 540)).toEqual({ seconds: 540, late: 540 });
    expect(expected(learnt(10), key, 540)).toEqual({ seconds: 400, late: 700 });
    expect(expected(learnt(10), durationKey('host', 'make', 'm'), 540)).toEqual({ seconds: 540, late: 540 });
  });
});

describe('a proposal', () => {
  const input = { environment: 'front', template: 'shared-office', site: 'KQ', people: 12 };
  const at = (durations: Durations): Proposal =>
    proposed('provision', input, { ...facts, site: { ...facts.site, durations } } satisfies Facts);

  it('goes by what was measured at the site, and tells it as a range', () => {
    const usual = proposed('provision', input, facts);
    expect(usual.impact.late).toBeUndefined();
    expect(impactLine(usual.impact, plain)).toContain('about 14 min');
    const learnt = at({ 'host make s2x8': { count: 40, median: 600, late: 900 } });
    // One host is on the way that takes longest: its making takes a minute more, and five more than that late.
    expect(learnt.seconds - usual.seconds).toBe(60);
    expect((learnt.impact.late ?? 0) - learnt.seconds).toBe(300);
    expect(impactLine(learnt.impact, plain)).toMatch(/about 15 to 20 min/);
  });

  it('is the same but for its length: what was agreed to does not change by learning', () => {
    const [before, after] = [at({}), at({ 'host make s2x8': { count: 40, median: 600, late: 900 } })];
    expect(after.steps.map((one) => one.key)).toEqual(before.steps.map((one) => one.key));
    expect([after.wanted, after.cost, after.checks]).toEqual([before.wanted, before.cost, before.checks]);
  });
});
