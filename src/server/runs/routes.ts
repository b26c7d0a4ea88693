import type { ListQuery, Page, Run } from '../../contract';
import { runEndpoints } from '../../contract';
import type { CustomerScope, Scope } from '../access';
import type { App } from '../app';
import { ok, paged, reads, versioned, writes } from '../http';
import { resumeRun, stopRun } from './control';
import { countUnderWay, getRun, listRuns } from './read';

const pageOfRuns = (app: App, scope: Scope | CustomerScope, query: ListQuery): Promise<Page<Run>> =>
  paged(
    query.limit,
    (limit) => listRuns(app.db, scope, { ...query, limit }),
    (one) => one.id,
  );

export const runRoutes = [
  reads(runEndpoints.list, async ({ app, query }, scope) => ok(await pageOfRuns(app, scope, query))),
  reads(runEndpoints.count, async ({ app }, scope) => ok({ underWay: await countUnderWay(app.db, scope) })),
  reads(runEndpoints.listInside, async ({ app, query }, scope) => ok(await pageOfRuns(app, scope, query))),
  reads(runEndpoints.read, async ({ app, params }, scope) =>
    versioned(await getRun(app.db, scope, params.run)),
  ),
  writes(
    runEndpoints.stop,
    ({ app, params, version }, scope) => stopRun(app, scope, params.run, version),
    async (_made, { app, params }, scope) => ok(await getRun(app.db, scope, params.run)),
  ),
  writes(
    runEndpoints.resume,
    ({ app, params, version }, scope) => resumeRun(app, scope, params.run, version),
    async (_made, { app, params }, scope) => ok(await getRun(app.db, scope, params.run)),
  ),
];
