import { clockEndpoints } from '../contract';
import { ok, writes, type Route } from '../server/http';
import { write } from '../server/write';
import type { DemoClock } from './clock';

/** What the demo serves beyond the product's own: its clock can be set. */

export const demoRoutes = (clock: DemoClock): readonly Route[] => [
  writes(
    clockEndpoints.set,
    async ({ app, body }, scope) => {
      const before = clock.view();
      // A step leaves the speed as it is, whatever the page that asks last knew of it.
      const speed = body.speed ?? before.speed;
      await clock.set(before.now + body.stepMs, speed);
      return write(app, scope, [], async (tx) => {
        await tx.record({
          action: 'set demo clock',
          subject: 'clock',
          before: { speed: before.speed },
          after: { speed, steppedMs: body.stepMs },
          topic: 'clock',
          id: 'clock',
        });
        return clock.view();
      });
    },
    (made) => ok(made),
  ),
];
