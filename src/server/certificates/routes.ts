import { certificateEndpoints } from '../../contract';
import { created, ok, reads, writes } from '../http';
import { keepCertificate, lookAt, readGateway } from '.';

export const certificateRoutes = [
  reads(certificateEndpoints.read, async ({ app }, scope) => ok(await readGateway(app.db, scope))),
  reads(certificateEndpoints.look, async ({ app, body }, scope) =>
    ok(await lookAt(app.db, scope, body, app.clock.now())),
  ),
  writes(
    certificateEndpoints.keep,
    ({ app, body }, scope) => keepCertificate(app, scope, body),
    (made, _ask, scope) => created(made, `/api/v1/customers/${scope.customer.code}/gateway`),
  ),
];
