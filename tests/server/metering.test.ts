import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { clip, type Period } from '../../src/core/calendar';
import { insertMany } from '../../src/server/db';
import { usageBy } from '../../src/server/metering';
import { openWorld, provisionFor, START, type Made, type World, notePresent } from './setup/world';

interface Interval {
  readonly from: number;
  /** Null: it goes on. */
  readonly length: number | null;
  readonly quantity: number;
  readonly state: 'on' | 'off';
}

/** What the database sums, held against the plainest possible reckoning of the same intervals. */
describe('usage', () => {
  let world: World;
  let made: Made;
  beforeAll(async () => {
    world = await openWorld('usage');
    made = await provisionFor(world, 'QFB', 'bench', 5, 'NL');
  });
  afterAll(() => world.close());

  const second = (n: number): number => START + n * 1_000;
  const interval = fc.record({
    from: fc.integer({ min: 0, max: 5_000 }),
    length: fc.option(fc.integer({ min: 0, max: 5_000 })),
    quantity: fc.integer({ min: 1, max: 500 }),
    state: fc.constantFrom('on' as const, 'off' as const),
  });
  const edges = fc.uniqueArray(fc.integer({ min: 0, max: 8_000 }), { minLength: 2, maxLength: 6 });

  function plainly(intervals: readonly Interval[], stretch: Period): number {
    let sum = 0;
    for (const { from, length, quantity, state } of intervals) {
      const whole = {
        from: second(from),
        to: length === null ? Number.MAX_SAFE_INTEGER : second(from + length),
      };
      const part = state === 'on' ? clip(whole, stretch) : undefined;
      if (part) sum += (quantity * (part.to - part.from)) / 1_000;
    }
    return sum;
  }

  it('is the same as the plain reckoning, for any intervals and any stretches', async () => {
    const scope = await world.inside('QFB');
    await notePresent(
      world,
      scope.customer.id,
      Array.from({ length: 12 }, (_, i) => `ref ${i}`),
    );
    await fc.assert(
      fc.asyncProperty(fc.array(interval, { maxLength: 12 }), edges, async (intervals, at) => {
        await world.app.db.write('DELETE FROM meter_interval WHERE customer_id = ?', [scope.customer.id]);
        await insertMany(
          world.app.db,
          'meter_interval',
          [
            'customer_id',
            'environment_id',
            'pool',
            'provider_code',
            'ref',
            'meter',
            'state',
            'size',
            'quantity',
            'from_at',
            'to_at',
          ],
          intervals.map((one, i) => [
            scope.customer.id,
            made.environment,
            'desks',
            'coast',
            `ref ${i}`,
            'host',
            one.state,
            's2x4',
            one.quantity,
            second(one.from),
            one.length === null ? null : second(one.from + one.length),
          ]),
        );
        const sorted = [...at].sort((a, b) => a - b).map(second);
        const stretches = sorted.slice(0, -1).map((from, i): Period => ({ from, to: sorted[i + 1] ?? from }));
        const usage = await usageBy(world.app.db, scope, 'pool', { stretches });
        for (const stretch of stretches) {
          const found = usage
            .filter((one) => one.stretch === stretch)
            .reduce((sum, one) => sum + one.amount, 0);
          expect(found).toBe(plainly(intervals, stretch));
        }
      }),
      { numRuns: 60 },
    );
  });

  it('of no stretch, and of a customer without anything, is none', async () => {
    expect(await usageBy(world.app.db, await world.inside('QFB'), 'pool', { stretches: [] })).toEqual([]);
    expect(
      await usageBy(world.app.db, await world.inside('WAP'), 'resource', {
        stretches: [{ from: 0, to: START }],
      }),
    ).toEqual([]);
  });
});
