import { watchEndpoints } from '../../contract';
import { ok, reads, writes } from '../http';
import { lookOf, markLook } from './marks';
import { summaryOf, watch } from './read';

export const watchRoutes = [
  reads(watchEndpoints.watch, async ({ app }, scope) => ok(await watch(app.db, scope, app.clock.now()))),
  writes(
    watchEndpoints.mark,
    ({ app, body }, scope) => markLook(app, scope, body),
    async (_made, { app, body }, scope) => ok(await lookOf(app, scope, body.key)),
  ),
  reads(watchEndpoints.summary, async ({ app }, scope) =>
    ok(await summaryOf(app.db, scope, app.clock.now())),
  ),
];
