import { networkEndpoints } from '../../contract';
import { ok, reads } from '../http';
import { tryRoute } from '../sites';
import { realmOf } from '../customers';
import { listNetworks } from '.';

export const networkRoutes = [
  reads(networkEndpoints.list, async ({ app }, scope) => ok(await listNetworks(app, scope))),
  reads(networkEndpoints.try, async ({ app, params }, scope) => {
    const route = await tryRoute(app, scope, params.site, await realmOf(app.db, scope));
    return ok({ route: route ?? null });
  }),
];
