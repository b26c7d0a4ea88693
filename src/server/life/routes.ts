import { lifeEndpoints } from '../../contract';
import { created, ok, reads, writes } from '../http';
import { noteDownload } from '../trail';
import { archiveOf } from './archive';
import { lifeOf } from './read';
import { leaveCustomer, pauseCustomer, startCustomer } from './turn';

const page = (code: string): string => `/api/v1/customers/${code}/life`;

export const lifeRoutes = [
  reads(lifeEndpoints.read, async ({ app }, scope) => ok(await lifeOf(app, scope))),
  writes(
    lifeEndpoints.pause,
    ({ app, body }, scope) => pauseCustomer(app, scope, body),
    (made, _ask, scope) => created(made, page(scope.customer.code)),
  ),
  writes(
    lifeEndpoints.start,
    ({ app, body }, scope) => startCustomer(app, scope, body.reason),
    (made, _ask, scope) => created(made, page(scope.customer.code)),
  ),
  writes(
    lifeEndpoints.leave,
    ({ app, body }, scope) => leaveCustomer(app, scope, body),
    (made, _ask, scope) => created(made, page(scope.customer.code)),
  ),
  reads(lifeEndpoints.archive, async ({ app }, scope) => {
    const file = `${scope.customer.code}.zip`;
    const archive = Buffer.from(await archiveOf(app, scope));
    await noteDownload(app, scope, file);
    return new Response(archive, {
      headers: {
        'content-type': 'application/zip',
        'content-disposition': `attachment; filename="${file}"`,
        'cache-control': 'no-store',
      },
    });
  }),
];
