import fc from 'fast-check';
import loadHighs from 'highs';
import { describe, expect, it } from 'vitest';
import { schedule, timelineOf, type Task } from '../../src/core/planning';
import { input, proposed } from './setup/facts';
import { standingTwo, twoPools } from './situations/standing';

/* How long a proposal takes, against instances that are solved exactly. */

/**
 * Nine tasks on three machines: R. L. Graham, "Bounds on Multiprocessing Timing Anomalies", SIAM J. Appl. Math. 17 (1969),
 * figures 1 and 2 (from memory). The least possible is 12; its list in the order of their numbers takes 12 on three machines,
 * and 15 on four.
 */
const GRAHAM: readonly Task[] = [
  { key: '1', seconds: 3, needs: [] },
  { key: '2', seconds: 2, needs: [] },
  { key: '3', seconds: 2, needs: [] },
  { key: '4', seconds: 2, needs: [] },
  { key: '5', seconds: 4, needs: ['4'] },
  { key: '6', seconds: 4, needs: ['4'] },
  { key: '7', seconds: 4, needs: ['4'] },
  { key: '8', seconds: 4, needs: ['4'] },
  { key: '9', seconds: 9, needs: ['1'] },
];

const finishOf = (tasks: readonly Task[], limit: number): number => {
  const result = schedule(tasks, limit);
  if (!result.ok) throw new Error(result.problem);
  return result.value.finish;
};

type Highs = Awaited<ReturnType<typeof loadHighs>>;

/** The least time, by a whole-number programme over starts (time-indexed). Lengths are whole. */
function least(highs: Highs, tasks: readonly Task[], limit: number): number {
  const horizon = finishOf(tasks, limit);
  const at = (n: number, t: number): string => `x${n}_${t}`;
  const index = new Map(tasks.map(({ key }, n) => [key, n]));
  const times = Array.from({ length: horizon + 1 }, (_, t) => t);
  const starts = (n: number, sign: '+' | '-'): string =>
    times
      .filter((t) => t > 0)
      .map((t) => `${sign} ${t} ${at(n, t)}`)
      .join('\n');
  const rows = [
    ...tasks.map((_, n) => times.map((t) => `+ ${at(n, t)}`).join('\n') + ' = 1'),
    ...tasks.map((task, n) => `last ${starts(n, '-')} >= ${task.seconds}`),
    ...tasks.flatMap((task, n) =>
      task.needs.map((need) => {
        const m = index.get(need) ?? 0;
        return `${starts(n, '+')} ${starts(m, '-')} >= ${tasks[m]?.seconds ?? 0}`;
      }),
    ),
    ...times.map((now) => {
      const running = tasks.flatMap(({ seconds }, n) =>
        times.filter((t) => t <= now && now < t + seconds).map((t) => `+ ${at(n, t)}`),
      );
      return running.length === 0 ? '' : `${running.join('\n')} <= ${limit}`;
    }),
  ].filter((row) => row !== '');
  const names = tasks.flatMap((_, n) => times.map((t) => at(n, t)));
  const problem = `Minimize\n obj: last\nSubject To\n${rows.map((row, n) => ` c${n}: ${row}`).join('\n')}\nBounds\n last >= 0\nBinary\n ${names.join('\n')}\nEnd`;
  const solved = highs.solve(problem);
  expect(solved.Status).toBe('Optimal');
  return Math.round(solved.ObjectiveValue);
}

describe('how long it takes', () => {
  it('is the least possible for the published nine tasks, and no more with a fourth machine', async () => {
    const highs = await loadHighs();
    expect(least(highs, GRAHAM, 3)).toBe(12);
    expect(finishOf(GRAHAM, 3)).toBe(12);
    expect(finishOf(GRAHAM, 4)).toBe(12);
  });

  it('is at most a third more than the least, and mostly the least, for small graphs', async () => {
    const highs = await loadHighs();
    const graphs = fc.sample(
      fc
        .array(
          fc.record({
            seconds: fc.integer({ min: 1, max: 4 }),
            needs: fc.array(fc.nat(6), { maxLength: 2 }),
          }),
          {
            minLength: 4,
            maxLength: 7,
          },
        )
        .map((all) =>
          all.map(({ seconds, needs }, n): Task => ({
            key: String(n),
            seconds,
            needs: [...new Set(needs.filter((need) => need < n).map(String))],
          })),
        ),
      { numRuns: 25, seed: 9 },
    );
    const ratios = graphs.map((tasks) => finishOf(tasks, 2) / least(highs, tasks, 2));
    expect(Math.max(...ratios)).toBeLessThanOrEqual(4 / 3);
    expect(Math.min(...ratios)).toBeGreaterThanOrEqual(1);
    expect(ratios.filter((ratio) => ratio === 1).length / ratios.length).toBeGreaterThan(0.8);
  });
});

describe('a time line', () => {
  it('has each thing once, in lanes of its kind, and a chain without a gap that decides', () => {
    for (const proposal of [proposed('provision', input, twoPools), proposed('retire', {}, standingTwo)]) {
      const { lanes, finish } = timelineOf(proposal.steps, proposal.policy.atATime);
      expect(finish).toBe(proposal.seconds);
      const bars = lanes.flatMap((lane) => lane.bars);
      expect(bars.length).toBe(
        new Set(proposal.steps.map(({ resource, subject }) => resource ?? subject)).size,
      );
      const deciding = bars.filter(({ isCritical }) => isCritical);
      expect(Math.min(...deciding.map(({ from }) => from))).toBe(0);
      expect(Math.max(...deciding.map(({ to }) => to))).toBe(finish);
      // Together they cover all of it.
      let reached = 0;
      for (const bar of [...deciding].sort((a, b) => a.from - b.from)) {
        expect(bar.from).toBeLessThanOrEqual(reached);
        reached = Math.max(reached, bar.to);
      }
      expect(reached).toBe(finish);
    }
    expect(timelineOf([], 3)).toEqual({ lanes: [], finish: 0 });
  });
});
