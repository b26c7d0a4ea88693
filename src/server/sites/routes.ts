import { siteEndpoints } from '../../contract';
import { created, ok, reads, writes } from '../http';
import { addressSpace } from './addresses';
import { listSites } from './read';
import { addRange } from './write';

export const siteRoutes = [
  reads(siteEndpoints.list, async ({ app }, scope) => ok({ sites: await listSites(app.db, scope) })),
  writes(
    siteEndpoints.addRange,
    ({ app, params, body }, scope) => addRange(app, scope, params.site, body.cidr),
    (_made, { params, body }) => created({ site: params.site, cidr: body.cidr }, '/api/v1/addresses'),
  ),
  reads(siteEndpoints.addresses, async ({ app }, scope) => ok({ ranges: await addressSpace(app.db, scope) })),
];
