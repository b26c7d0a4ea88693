import { watchEndpoints } from '../../contract';
import { ok, reads } from '../http';
import { summaryOf, watch } from './read';

export const watchRoutes = [
  reads(watchEndpoints.watch, async ({ app }, scope) => ok(await watch(app.db, scope, app.clock.now()))),
  reads(watchEndpoints.summary, async ({ app }, scope) =>
    ok(await summaryOf(app.db, scope, app.clock.now())),
  ),
];
