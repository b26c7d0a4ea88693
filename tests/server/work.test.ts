import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { work } from '../../src/server/worker';
import type { Job } from '../../src/server/manifest';
import { openWorld, type World } from './setup/world';

describe('the work of a worker', () => {
  let world: World;
  beforeAll(async () => {
    world = await openWorld('work');
  });
  afterAll(() => world.close());

  /** Does a job once. @returns how long it rests after that, in ms */
  const restAfter = async (job: Job): Promise<number> => {
    const stop = new AbortController();
    const run: Job['run'] = async (app, how) => {
      await job.run(app, how);
      stop.abort();
    };
    await work(world.app, { jobs: [{ ...job, run }], rooms: [] }, stop.signal);
    const row = await world.app.db.row<{ rest: number }>(
      'SELECT due_wall - done_wall AS rest FROM job WHERE name = ?',
      [job.name],
    );
    return Number(row?.rest);
  };
  const WORKED_MS = 40;
  const busy = (): Promise<void> => {
    for (const until = performance.now() + WORKED_MS; performance.now() < until;);
    return Promise.resolve();
  };

  it('rests so that a job takes a fifth of the time at most', async () => {
    expect(await restAfter({ name: 'long', everyMs: 5, run: busy })).toBeGreaterThanOrEqual(4 * WORKED_MS);
    expect(await restAfter({ name: 'short', everyMs: 700, run: () => Promise.resolve() })).toBe(700);
  });

  it('does a job as often as ever whose things have a rest each: who asks for one does not wait for another', async () => {
    expect(await restAfter({ name: 'itself', everyMs: 5, run: busy, restsItself: true })).toBe(5);
  });
});
