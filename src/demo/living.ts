import type { App } from '../server/app';
import { advance, DUTIES, hold, letGo } from '../server/worker';

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
    private readonly simulationUrl: string,
  ) {}

  now(): number {
    return this.clock.at;
  }

  async moveTo(at: number): Promise<void> {
    this.clock.at = Math.max(this.clock.at, at);
    await this.control('PUT', '/control/clock', { at: this.clock.at, speed: 0 });
  }

  /** Does steps and lets the provider's time pass until no run is at work, then reads what has changed. */
  async untilQuiet(): Promise<void> {
    for (;;) {
      if (await advance(this.app)) {
        await Promise.all(Array.from({ length: HANDS }, () => advance(this.app)));
        continue;
      }
      const running = await this.app.db.row<{ runs: number }>(
        "SELECT COUNT(*) AS runs FROM run WHERE state IN ('running','stopping')",
      );
      if ((running?.runs ?? 0) === 0) break;
      await this.duty('feed');
      const next = (await this.control('GET', '/control/next')) as { ready_at: number | null };
      const due = Math.max(this.clock.at + 500, next.ready_at ?? 0);
      await this.moveTo(Math.ceil(due / LOOK_MS) * LOOK_MS);
    }
    await this.duty('feed');
  }

  /** Does one of the worker's duties, now. */
  async duty(name: string): Promise<void> {
    const duty = DUTIES.find((one) => one.name === name);
    const held = duty && (await hold(this.app, duty));
    if (!duty || !held) throw new Error(`duty ${name} is not to be had`);
    await duty.run(this.app, held);
    await letGo(this.app, { ...duty, everyMs: 0 }, held);
  }

  /** Switches the simulated provider's faults on; none: off. */
  async faults(faults: readonly { kind: string; target?: string; amount?: number }[]): Promise<void> {
    await this.control('PUT', '/control/faults', { faults });
  }

  private async control(method: string, path: string, body?: unknown): Promise<unknown> {
    const response = await fetch(this.simulationUrl + path, {
      method,
      ...(body === undefined ? {} : { body: JSON.stringify(body) }),
    });
    if (!response.ok) throw new Error(`${path}: ${response.status} ${await response.text()}`);
    return response.json();
  }
}
