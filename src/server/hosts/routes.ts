import { hostEndpoints } from '../../contract';
import { ok, reads } from '../http';
import { hostDetail, vitalsOf } from '.';

export const hostRoutes = [
  reads(hostEndpoints.read, async ({ app, params }, scope) => ok(await hostDetail(app, scope, params.host))),
  reads(hostEndpoints.vitals, async ({ app, params }, scope) =>
    ok({ vitals: await vitalsOf(app, scope, params.host) }),
  ),
];
