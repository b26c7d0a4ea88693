import { clockEndpoints } from '../contract';
import { ok, writes, type Route } from '../server/http';
import { write } from '../server/write';
import { notePlace, type Job } from '../server/worker';
import { shown, type DemoClock } from './clock';

/** What the demo adds to the product: its clock can be set, and the simulated outside is told when someone has. */

export const demoRoutes = (clock: DemoClock): readonly Route[] => [
  writes(
    clockEndpoints.set,
    async ({ app, body }, scope) => {
      const before = clock.view();
      await clock.set(before.now + body.stepMs, body.speed);
      return write(app, scope, [], async (tx) => {
        await tx.record({
          action: 'set demo clock',
          subject: 'clock',
          before: { speed: before.speed },
          after: { speed: body.speed, steppedMs: body.stepMs },
          topic: 'clock',
          id: 'clock',
        });
        return clock.view();
      });
    },
    (made) => ok(made),
  ),
];

export const demoJobs = (clock: DemoClock, simulations: readonly string[]): readonly Job[] => [
  {
    name: 'clock',
    everyMs: 200,
    run: async (app, held) => {
      await clock.refresh();
      const setting = clock.setting();
      if (!setting) return;
      const mark = `${setting.shownAt} ${setting.wallAt}`;
      if (mark === held.place) return;
      for (const url of simulations) {
        const response = await fetch(`${url}/control/clock`, {
          method: 'PUT',
          body: JSON.stringify({ at: shown(setting, Date.now()), speed: setting.speed }),
          signal: AbortSignal.timeout(10_000),
        });
        if (!response.ok) throw new Error(`the simulation's clock could not be set: ${response.status}`);
      }
      await notePlace(app, held, mark);
    },
  },
];
