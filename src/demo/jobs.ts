import type { Job } from '../server/manifest';
import { notePlace } from '../server/worker';
import { shown, type DemoClock } from './clock';

/** What the workers do for the demo beyond the product's own: the simulated outside is told when someone has set the clock. */
export const demoJobs = (clock: DemoClock, simulations: readonly string[]): readonly Job[] => [
  {
    name: 'clock',
    everyMs: 200,
    run: async (app, { lease }) => {
      await clock.refresh();
      const setting = clock.setting();
      if (!setting) return;
      const mark = `${setting.shownAt} ${setting.wallAt}`;
      if (mark === lease.place) return;
      for (const url of simulations) {
        const response = await fetch(`${url}/control/clock`, {
          method: 'PUT',
          body: JSON.stringify({ at: shown(setting, Date.now()), speed: setting.speed }),
          signal: AbortSignal.timeout(10_000),
        });
        if (!response.ok) throw new Error(`the simulation's clock could not be set: ${response.status}`);
      }
      await notePlace(app, lease, mark);
    },
  },
];
