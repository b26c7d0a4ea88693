import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { refuse } from '../../src/core/result';
import { schedule, type Task } from '../../src/core/planning';

const finishTime = (tasks: readonly Task[], limit: number): number => {
  const result = schedule(tasks, limit);
  if (!result.ok) throw new Error(result.problem);
  return result.value.finish;
};

const task = (key: string, seconds: number, needs: string[] = []) => ({ key, seconds, needs });

// Hillier and Lieberman, "Introduction to Operations Research", chapter "Project Management with PERT/CPM": the Reliable
// Construction Co. example, durations in weeks. Its critical path takes 44 weeks. Table from memory.
const CONSTRUCTION = [
  task('A', 2),
  task('B', 4, ['A']),
  task('C', 10, ['B']),
  task('D', 6, ['C']),
  task('E', 4, ['C']),
  task('F', 5, ['E']),
  task('G', 7, ['D']),
  task('H', 9, ['E', 'G']),
  task('I', 7, ['C']),
  task('J', 8, ['F', 'I']),
  task('K', 4, ['J']),
  task('L', 5, ['J']),
  task('M', 2, ['H']),
  task('N', 6, ['K', 'L']),
];

/** Tasks that need only earlier ones. */
const anyTasks = fc
  .array(
    fc.record({ seconds: fc.integer({ min: 0, max: 50 }), needs: fc.array(fc.nat(20), { maxLength: 3 }) }),
    {
      maxLength: 25,
    },
  )
  .map((list) =>
    list.map(({ seconds, needs }, i) =>
      task(`t${i}`, seconds, [...new Set(needs.filter((need) => need < i).map((need) => `t${need}`))]),
    ),
  );

describe('the critical path', () => {
  it('is that of the textbook', () => {
    const result = schedule(CONSTRUCTION, 100);
    expect(result.ok && result.value.finish).toBe(44);
    expect(result.ok && result.value.critical).toEqual(['A', 'B', 'C', 'E', 'F', 'J', 'L', 'N']);
  });

  it('one at a time takes as long as all together', () => expect(finishTime(CONSTRUCTION, 1)).toBe(79));

  // Common practice, no source: ten hosts in waves of five at 10 to 15 minutes a wave are done in 20 to 30 minutes.
  it.each([10, 15])('moves ten hosts in waves of five at %i minutes', (minutes) => {
    const hosts = Array.from({ length: 10 }, (_, i) => task(`h${i}`, minutes * 60));
    expect(finishTime(hosts, 5)).toBe(minutes * 60 * 2);
  });

  // The longest way still to go: A's is the whole critical path, N's only itself.
  it('tells the longest way behind each task', () => {
    const result = schedule(CONSTRUCTION, 1);
    const tails = result.ok ? result.value.tailOf : new Map<string, number>();
    expect([tails.get('A'), tails.get('J'), tails.get('N')]).toEqual([44, 19, 6]);
  });

  it('refuses a circle and a need that is not there, and says which', () => {
    const why = (...tasks: ReturnType<typeof task>[]) => schedule(tasks, 1);
    expect(why(task('a', 1, ['b']), task('b', 1, ['a']))).toEqual(
      refuse('steps need each other in a circle'),
    );
    expect(why(task('a', 1, ['z']))).toEqual(refuse('a needs z, which is not there'));
  });

  it('refuses none at a time, and a step without a length, rather than going on for ever', () => {
    for (const limit of [0, -1, 0.5, Number.NaN, Number.POSITIVE_INFINITY])
      expect(schedule(CONSTRUCTION, limit)).toEqual(refuse('at least one step at a time'));
    for (const seconds of [Number.NaN, Number.POSITIVE_INFINITY, -1])
      expect(schedule([{ key: 'a', needs: [], seconds }], 1)).toEqual(refuse('a has no length'));
    expect(schedule([task('a', 0)], 1).ok).toBe(true);
  });

  it('takes the longest first, in whatever order they stand', () => {
    const [long, b, c] = [task('long', 10), task('b', 1), task('c', 1)];
    for (const order of [
      [long, b, c],
      [b, long, c],
      [c, b, long],
    ])
      expect(finishTime(order, 2)).toBe(10);
    // Freed later: what stands behind `first` is taken by length too.
    const behind = ['x', 'y'].map((key) => task(key, 1, ['first']));
    expect(finishTime([task('first', 1), ...behind, task('last', 10, ['first'])], 2)).toBe(11);
  });

  it('of nothing takes no time', () => expect(finishTime([], 3)).toBe(0));

  // Graham, "Bounds for Certain Multiprocessing Anomalies" (1966): any list schedule ends by work/m + critical path.
  it('keeps within the bounds of list scheduling', () => {
    fc.assert(
      fc.property(anyTasks, fc.integer({ min: 1, max: 6 }), (tasks, limit) => {
        const result = schedule(tasks, limit);
        if (!result.ok) throw new Error(result.problem);
        const { finish, criticalSeconds } = result.value;
        const work = tasks.reduce((sum, one) => sum + one.seconds, 0);
        expect(finish).toBeGreaterThanOrEqual(Math.max(criticalSeconds, work / limit) - 1e-9);
        expect(finish).toBeLessThanOrEqual(work / limit + criticalSeconds + 1e-9);
      }),
    );
  });

  it('begins nothing before its needs are done, nor more than the limit at a time', () => {
    fc.assert(
      fc.property(anyTasks, fc.integer({ min: 1, max: 6 }), (tasks, limit) => {
        const result = schedule(tasks, limit);
        if (!result.ok) throw new Error(result.problem);
        const { startOf } = result.value;
        const start = (key: string): number => startOf.get(key) ?? Number.NaN;
        const secondsOf = new Map(tasks.map((one) => [one.key, one.seconds]));
        for (const one of tasks)
          for (const need of one.needs)
            expect(start(one.key)).toBeGreaterThanOrEqual(start(need) + (secondsOf.get(need) ?? 0));
        for (const at of startOf.values()) {
          const busy = tasks.filter((one) => start(one.key) <= at && at < start(one.key) + one.seconds);
          expect(busy.length).toBeLessThanOrEqual(limit);
        }
      }),
    );
  });
});
