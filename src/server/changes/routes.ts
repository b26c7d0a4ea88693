import { changeEndpoints, factsEndpoints, holdEndpoints } from '../../contract';
import type { Change } from '../../core/planning';
import type { Catalogue } from '../catalogue';
import { created, nothing, ok, reads, writes, type Route } from '../http';
import { beginChange, proposeChange } from './begin';
import { newEnvironmentFacts } from '../facts';
import { beginHeld, giveBackHold, holdChange, listAwaited, listHolds, readHold } from './hold';

/** Three routes for each change of the catalogue, and the facts that a new environment is proposed from. */
export const changeRoutes = ({ changes }: Catalogue): Route[] => [
  reads(factsEndpoints.facts, async ({ app, query }, scope) =>
    ok(await newEnvironmentFacts(app, scope, query)),
  ),
  reads(holdEndpoints.list, async ({ app }, scope) => ok({ holds: await listHolds(app, scope) })),
  reads(holdEndpoints.awaited, async ({ app }, scope) => ok({ awaited: await listAwaited(app, scope) })),
  reads(holdEndpoints.read, async ({ app, params }, scope) => ok(await readHold(app, scope, params.hold))),
  writes(
    holdEndpoints.begin,
    ({ app, params, body }, scope) => beginHeld(app, scope, params.hold, body),
    (made, _ask, scope) => created(made, `/api/v1/customers/${scope.customer.code}/runs/${made.run}`),
  ),
  writes(
    holdEndpoints.giveBack,
    ({ app, params }, scope) => giveBackHold(app, scope, params.hold),
    () => nothing(),
  ),
  ...changes.flatMap(routesOfChange),
];

function routesOfChange(change: Change): Route[] {
  const { propose, begin, hold } = changeEndpoints(change);
  return [
    reads(propose, async ({ app, params, body }, scope) =>
      ok(await proposeChange(app, scope, change, { ...body, environment: params.environment })),
    ),
    writes(
      hold,
      ({ app, params, body }, scope) =>
        holdChange(app, scope, change, { ...body, environment: params.environment }),
      (made, _ask, scope) => created(made, `/api/v1/customers/${scope.customer.code}/holds/${made.hold}`),
    ),
    writes(
      begin,
      ({ app, params, body }, scope) =>
        beginChange(app, scope, change, { ...body, environment: params.environment }),
      (made, _ask, scope) => created(made, `/api/v1/customers/${scope.customer.code}/runs/${made.run}`),
    ),
  ];
}
