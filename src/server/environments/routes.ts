import { environmentEndpoints, templateEndpoints } from '../../contract';
import { ok, paged, reads, versioned } from '../http';
import { listHosts } from './hosts';
import { proofOf } from './proof';
import { originView } from './origin';
import { differencesOf, getEnvironment, listEnvironments, wholeEnvironment } from './read';
import { requireEnvironment, standingOf } from './standing';

export const environmentRoutes = [
  reads(environmentEndpoints.list, async ({ app, query }, scope) =>
    ok(
      await paged(
        query.limit,
        (limit) => listEnvironments(app.db, scope, { ...query, limit }),
        (one) => one.id,
      ),
    ),
  ),
  reads(environmentEndpoints.read, async ({ app, params }, scope) =>
    versioned(await getEnvironment(app, scope, params.environment)),
  ),
  reads(environmentEndpoints.whole, async ({ app, params }, scope) =>
    ok(await wholeEnvironment(app, scope, params.environment)),
  ),
  reads(environmentEndpoints.hosts, async ({ app, params, query }, scope) => {
    await requireEnvironment(app.db, scope, params.environment);
    return ok(
      await paged(
        query.limit,
        (limit) => listHosts(app.db, scope, params.environment, { ...query, limit }),
        (one) => one.name,
      ),
    );
  }),
  reads(environmentEndpoints.differences, async ({ app, params }, scope) =>
    ok({ differences: await differencesOf(app, scope, params.environment) }),
  ),
  reads(templateEndpoints.origin, async ({ app, params }, scope) =>
    ok(await originView(app, scope, await standingOf(app, scope, params.environment))),
  ),
  reads(environmentEndpoints.proof, async ({ app, params }, scope) =>
    ok(await proofOf(app, scope, params.environment)),
  ),
];
