import { personCostEndpoints } from '../../contract';
import { ok, reads } from '../http';
import { personCosts } from '.';

export const personCostRoutes = [
  reads(personCostEndpoints.read, async ({ app, params }, scope) =>
    ok(await personCosts(app, scope, params.person)),
  ),
];
