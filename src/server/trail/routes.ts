import { trailEndpoints, type ListQuery, type Page, type TrailEntry } from '../../contract';
import type { CustomerScope, Scope } from '../access';
import type { App } from '../app';
import { ok, paged, reads } from '../http';
import { listTrail, readTrailEntry } from './read';

const pageOfTrail = (app: App, scope: Scope | CustomerScope, query: ListQuery): Promise<Page<TrailEntry>> =>
  paged(
    query.limit,
    (limit) => listTrail(app.db, scope, { ...query, limit }),
    (one) => one.id,
  );

export const trailRoutes = [
  reads(trailEndpoints.list, async ({ app, query }, scope) => ok(await pageOfTrail(app, scope, query))),
  reads(trailEndpoints.one, async ({ app, params }, scope) =>
    ok(await readTrailEntry(app.db, scope, params.entry)),
  ),
  reads(trailEndpoints.oneInside, async ({ app, params }, scope) =>
    ok(await readTrailEntry(app.db, scope, params.entry)),
  ),
  reads(trailEndpoints.listInside, async ({ app, query }, scope) => ok(await pageOfTrail(app, scope, query))),
];
