import { siteEndpoints } from '../../contract';
import { created, nothing, ok, reads, writes } from '../http';
import { addressSpace } from './addresses';
import { listSites } from './read';
import { addRange, changeRange, enlargeBlock, giveUpClear, keepClear, removeRange } from './write';

export const siteRoutes = [
  reads(siteEndpoints.list, async ({ app }, scope) => ok({ sites: await listSites(app.db, scope) })),
  writes(
    siteEndpoints.addRange,
    ({ app, params, body }, scope) => addRange(app, scope, params.site, body.cidr),
    (_made, { params, body }) => created({ site: params.site, cidr: body.cidr }, '/api/v1/addresses'),
  ),
  writes(
    siteEndpoints.changeRange,
    ({ app, params, body }, scope) => changeRange(app, scope, params.site, body),
    ({ cidr }, { params }) => ok({ site: params.site, cidr }),
  ),
  writes(
    siteEndpoints.removeRange,
    ({ app, params, query }, scope) => removeRange(app, scope, params.site, query.cidr),
    () => nothing(),
  ),
  writes(
    siteEndpoints.keepClear,
    ({ app, body }, scope) => keepClear(app, scope, body),
    (made) => created(made, '/api/v1/addresses'),
  ),
  writes(
    siteEndpoints.giveUp,
    ({ app, query }, scope) => giveUpClear(app, scope, query.cidr),
    () => nothing(),
  ),
  writes(
    siteEndpoints.growBlock,
    ({ app, params }, scope) => enlargeBlock(app, scope, params.site),
    (made) => created(made, '/api/v1/addresses'),
  ),
  reads(siteEndpoints.addresses, async ({ app }, scope) => ok(await addressSpace(app.db, scope))),
];
