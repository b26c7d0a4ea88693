import { afterAll, afterEach, beforeAll, describe, expect, it } from 'vitest';
import { resumeRun } from '../../src/server/runs';
import { Engine } from './setup/engine';

/** Real processes again: what is asked for twice, answered late, or wanted otherwise meanwhile is done once, as it was last wanted. */
describe('nothing is doubled, and the last word wins', { timeout: 240_000 }, () => {
  const engine = new Engine();
  beforeAll(() => engine.open());
  afterEach(() => engine.calm());
  afterAll(() => engine.close());

  /** As if the tries had gone on for so long that the next trouble is the last. */
  const outOfPatience = (run: string) =>
    engine.app.db.write("UPDATE step SET attempt = 99 WHERE run_id = ? AND state = 'working'", [run]);
  const failed = async (run: string): Promise<number> =>
    (
      await engine.app.db.row<{ n: number }>(
        "SELECT COUNT(*) AS n FROM step WHERE run_id = ? AND state = 'failed'",
        [run],
      )
    )?.n ?? 0;
  const untilFailed = async (run: string): Promise<void> => {
    await expect
      .poll(
        async () => {
          await outOfPatience(run);
          return failed(run);
        },
        { timeout: 30_000, interval: 50 },
      )
      .toBeGreaterThan(0);
  };
  /** The run has stopped, with nothing tried on: what else is being made gets no more tries either. */
  const untilStopped = async (run: string): Promise<void> => {
    await expect
      .poll(
        async () => {
          await outOfPatience(run);
          return engine.runState(run);
        },
        { timeout: 60_000, interval: 50 },
      )
      .toBe('stopped');
  };
  const resume = async (run: string): Promise<void> => resumeRun(engine.app, await engine.inside('SVG'), run);

  it('builds nothing a second time when the provider was silent for longer than the tries last', async () => {
    engine.startWorker();
    const { run, environment } = await engine.provision('silent', 12);
    await engine.untilWorking(run, 'host make');
    await engine.kill(engine.members.get('provider'));
    await untilFailed(run);
    await engine.startStandin('provider');
    await engine.untilRun(run, 'stopped');
    await resume(run);
    await engine.untilRun(run, 'done');
    await engine.expectExactlyWanted(environment);
  });

  it('finds what was made although every answer was lost until the tries were over', async () => {
    const { run, environment } = await engine.provision('deaf', 12);
    await engine.faults({ kind: 'lose-answer', amount: 500 });
    engine.startWorker();
    await untilFailed(run);
    await untilStopped(run);
    await engine.faults();
    await resume(run);
    await engine.untilRun(run, 'done');
    await engine.expectExactlyWanted(environment);
  });

  describe('of one environment', () => {
    let environment = '';
    let hosts: { id: string; name: string; ref: string | null }[] = [];
    it('stands first', async () => {
      const worker = engine.startWorker();
      const made = await engine.provision('mind', 12);
      environment = made.environment;
      await engine.untilRun(made.run, 'done');
      await engine.kill(worker);
      hosts = await engine.hosts(environment);
    });

    const all = () => ({ hosts: hosts.map(({ id }) => id) });
    const states = async (): Promise<string[]> => {
      const present = await engine.provider().resources({ customer: 'SVG', environment });
      return present.filter((one) => one.kind === 'host').map((one) => one.state);
    };
    const ended = async (run: string): Promise<boolean> => (await engine.runState(run)) === 'done';

    it('ends on when power off was followed by power on', async () => {
      engine.startWorker();
      engine.startWorker();
      const off = await engine.change('power-off', all(), environment);
      await engine.untilWorking(off.run, 'host power');
      const on = await engine.change('power-on', all(), environment);
      await engine.untilRun(off.run, 'done');
      await engine.untilRun(on.run, 'done');
      expect(await states()).toEqual(hosts.map(() => 'on'));
      await engine.expectExactlyWanted(environment);
    });

    it('takes people at the end when a drain that is tried again was followed by put back', async () => {
      const drained = await engine.change('drain', all(), environment);
      await engine.faults({ kind: 'throttle' });
      engine.startWorker();
      const tried = async (): Promise<number> =>
        (
          await engine.app.db.row<{ n: number }>('SELECT MAX(attempt) AS n FROM step WHERE run_id = ?', [
            drained.run,
          ])
        )?.n ?? 0;
      await expect.poll(tried, { timeout: 20_000 }).toBeGreaterThan(0);
      await engine.faults();
      const back = await engine.change('put-back', all(), environment);
      await engine.untilRun(drained.run, 'done');
      await engine.untilRun(back.run, 'done');
      const present = await engine.provider().resources({ customer: 'SVG', environment });
      expect(present.filter((one) => one.attributes.accepting === false)).toEqual([]);
    });

    it.each([0, 40, 90, 150, 220])(
      'is as last wanted although a worker slept for %i ms into its work, and woke when another had done it',
      async (into) => {
        // Each call takes a while, so that a worker can be stopped between its claim, its looking and its writing.
        await engine.faults({ kind: 'slow', amount: 60 });
        const sleeper = engine.startWorker();
        const off = await engine.change('power-off', all(), environment);
        await engine.untilWorking(off.run, 'host power');
        await new Promise((resolve) => setTimeout(resolve, into));
        sleeper.child.kill('SIGSTOP');
        engine.startWorker();
        const on = await engine.change('power-on', all(), environment);
        await engine.untilRun(off.run, 'done');
        await engine.untilRun(on.run, 'done');
        sleeper.child.kill('SIGCONT');
        // It has come round when it works again: another run is done with it as the only worker.
        for (const [name, member] of engine.members)
          if (name.startsWith('worker') && member !== sleeper) await engine.kill(member);
        const [first] = hosts;
        const last = await engine.change('drain', { hosts: [first?.id] }, environment);
        await engine.untilRun(last.run, 'done');
        const back = await engine.change('put-back', { hosts: [first?.id] }, environment);
        await engine.untilRun(back.run, 'done');
        expect(await ended(on.run)).toBe(true);
        expect(await states()).toEqual(hosts.map(() => 'on'));
      },
    );

    it('is claimed once for each look, although its calls take longer than its lease', async () => {
      await engine.faults({ kind: 'slow', amount: 1_000 });
      engine.startWorker();
      engine.startWorker();
      const [first] = hosts;
      const { run } = await engine.change('drain', { hosts: [first?.id] }, environment);
      const fences = new Set<number>();
      await expect
        .poll(
          async () => {
            const row = await engine.app.db.row<{ fence: number; state: string }>(
              "SELECT fence, state FROM step WHERE run_id = ? AND kind = 'host'",
              [run],
            );
            if (row?.state === 'working') fences.add(row.fence);
            return row?.state;
          },
          { timeout: 45_000, interval: 50 },
        )
        .toBe('done');
      expect([...fences]).toHaveLength(1);
    });
  });
});
