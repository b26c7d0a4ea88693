import { lookAlongEndpoints } from '../../contract';
import { created, nothing, ok, reads, writes } from '../http';
import { askToLook, endLook, readLook } from '.';

export const lookAlongRoutes = [
  writes(
    lookAlongEndpoints.ask,
    ({ app, params, body }, scope) => askToLook(app, scope, params, body.reason),
    (made, { params }, scope) =>
      created(
        made,
        `/api/v1/customers/${scope.customer.code}/sessions/${params.provider}/${params.session}/look-along/${made.id}`,
      ),
  ),
  reads(lookAlongEndpoints.read, async ({ app, params }, scope) =>
    ok(await readLook(app, scope, params, params.look)),
  ),
  writes(
    lookAlongEndpoints.end,
    ({ app, params }, scope) => endLook(app, scope, params, params.look),
    () => nothing(),
  ),
];
