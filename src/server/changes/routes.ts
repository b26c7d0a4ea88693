import { changeEndpoints, factsEndpoints } from '../../contract';
import type { Change } from '../../core/planning';
import type { Catalogue } from '../catalogue';
import { created, ok, reads, writes, type Route } from '../http';
import { beginChange, proposeChange } from './begin';
import { askOutside, readFacts } from './facts';

/** Two routes for each change of the catalogue, and the facts that a new environment is proposed from. */
export const changeRoutes = ({ changes }: Catalogue): Route[] => [
  reads(factsEndpoints.facts, async ({ app, query }, scope) =>
    ok(await readFacts(app, app.db, scope, query, await askOutside(app, scope, query.site))),
  ),
  ...changes.flatMap(routesOfChange),
];

function routesOfChange(change: Change): Route[] {
  const { propose, begin } = changeEndpoints(change);
  return [
    reads(propose, async ({ app, params, body }, scope) =>
      ok(await proposeChange(app, scope, change, { ...body, environment: params.environment })),
    ),
    writes(
      begin,
      ({ app, params, body }, scope) =>
        beginChange(app, scope, change, { ...body, environment: params.environment }),
      (made, _ask, scope) => created(made, `/api/v1/customers/${scope.customer.code}/runs/${made.run}`),
    ),
  ];
}
