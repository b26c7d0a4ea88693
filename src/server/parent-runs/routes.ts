import { parentRunEndpoints } from '../../contract';
import { ok, paged, reads, versioned, writes } from '../http';
import { endParent, resumeParent, stopParent } from './control';
import { getParent, listParents } from './read';

export const parentRunRoutes = [
  reads(parentRunEndpoints.list, async ({ app, query }, scope) =>
    ok(
      await paged(
        query.limit,
        (limit) => listParents(app.db, scope, { ...query, limit }),
        (one) => one.id,
      ),
    ),
  ),
  reads(parentRunEndpoints.read, async ({ app, params }, scope) =>
    versioned(await getParent(app.db, scope, params.parent)),
  ),
  writes(
    parentRunEndpoints.stop,
    ({ app, params, version }, scope) => stopParent(app, scope, params.parent, version),
    async (_made, { app, params }, scope) => ok(await getParent(app.db, scope, params.parent)),
  ),
  writes(
    parentRunEndpoints.resume,
    ({ app, params, version }, scope) => resumeParent(app, scope, params.parent, version),
    async (_made, { app, params }, scope) => ok(await getParent(app.db, scope, params.parent)),
  ),
  writes(
    parentRunEndpoints.end,
    ({ app, params, version }, scope) => endParent(app, scope, params.parent, version),
    async (_made, { app, params }, scope) => ok(await getParent(app.db, scope, params.parent)),
  ),
];
