import { SYSTEM } from '../server/access';
import type { App } from '../server/app';
import { parentsAtWork } from '../server/parent-runs';
import { runsUnderWay } from '../server/runs';
import { JOBS, ROOMS } from '../server/rooms';
import { advance, hold, letGo } from '../server/worker';

const HANDS = 5;
/** Time is let pass in such pieces, so that what ends close together is seen together. */
const LOOK_MS = 15_000;

/** A clock that is moved by hand; the simulated provider's clock follows it. */
export interface MovedClock {
  at: number;
}

/** Lets time pass as fast as the work allows: does what is due, then moves the clocks to what comes next. */
export class Living {
  constructor(
    readonly app: App,
    private readonly clock: MovedClock,
    /** Where the simulated providers are controlled, by their code. */
    private readonly simulations: Readonly<Record<string, string>>,
    private readonly lookMs = LOOK_MS,
  ) {}

  now(): number {
    return this.clock.at;
  }

  async moveTo(at: number): Promise<void> {
    this.clock.at = Math.max(this.clock.at, at);
    for (const url of Object.values(this.simulations))
      await control(url, 'PUT', '/control/clock', { at: this.clock.at, speed: 0 });
  }

  /** Does steps and lets the provider's time pass until no run is at work, then reads what has changed. */
  async untilQuiet(): Promise<void> {
    for (;;) {
      if (await advance(this.app)) {
        await Promise.all(Array.from({ length: HANDS }, () => advance(this.app)));
        continue;
      }
      const runs = await runsUnderWay(this.app.db, SYSTEM);
      if (runs.every((run) => run.state === 'stopped')) {
        if ((await parentsAtWork(this.app.db)) === 0) break;
        await this.job('parents');
      }
      await this.job('feed');
      const ready = await Promise.all(
        Object.values(this.simulations).map(
          async (url) =>
            ((await control(url, 'GET', '/control/next')) as { ready_at: number | null }).ready_at,
        ),
      );
      const next = Math.min(...ready.map((at) => at ?? Number.POSITIVE_INFINITY));
      const due = Math.max(this.clock.at + 500, Number.isFinite(next) ? next : 0);
      await this.moveTo(Math.ceil(due / this.lookMs) * this.lookMs);
    }
    await this.job('feed');
  }

  /** Does one of the worker's jobs, now. */
  async job(name: string): Promise<void> {
    const job = JOBS.find((one) => one.name === name);
    const held = job && (await hold(this.app, job));
    if (!job || !held) throw new Error(`job ${name} is not to be had`);
    await job.run(this.app, { lease: held, stop: new AbortController().signal, rooms: ROOMS });
    await letGo(this.app, held, 0, true);
  }

  /** Has a host say otherwise of itself than it usually does. */
  async ail(provider: string, ref: string, given: object): Promise<void> {
    await control(this.simulations[provider] ?? '', 'PUT', `/control/ailments/${encodeURIComponent(ref)}`, {
      given,
    });
  }

  /** Switches a simulated provider's faults on; none: off. */
  async faults(
    faults: readonly { kind: string; target?: string; amount?: number }[],
    provider = 'coast',
  ): Promise<void> {
    await control(this.simulations[provider] ?? '', 'PUT', '/control/faults', { faults });
  }
}

/** Steers a simulation. */
export async function control(url: string, method: string, path: string, body?: unknown): Promise<unknown> {
  const response = await fetch(url + path, {
    method,
    ...(body === undefined ? {} : { body: JSON.stringify(body) }),
  });
  if (!response.ok) throw new Error(`${path}: ${response.status} ${await response.text()}`);
  return response.json();
}
