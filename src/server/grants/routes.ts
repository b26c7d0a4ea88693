import { grantEndpoints } from '../../contract';
import { ok, reads } from '../http';
import { keptOut, listGroups, listItems, listMembers, outlookOf, personDetail, why } from '.';

export const grantRoutes = [
  reads(grantEndpoints.groups, async ({ app }, scope) => ok(await listGroups(app, scope))),
  reads(grantEndpoints.members, async ({ app, params }, scope) =>
    ok({ entries: await listMembers(app, scope, params.group) }),
  ),
  reads(grantEndpoints.person, async ({ app, params }, scope) =>
    ok(await personDetail(app, scope, params.person)),
  ),
  reads(grantEndpoints.why, async ({ app, params, query }, scope) =>
    ok({ links: await why(app, scope, params.person, query) }),
  ),
  reads(grantEndpoints.keptOut, async ({ app, params, query }, scope) =>
    ok(await keptOut(app, scope, params.group, query)),
  ),
  reads(grantEndpoints.items, async ({ app, query }, scope) =>
    ok({ entries: await listItems(app, scope, query?.environment) }),
  ),
  reads(grantEndpoints.outlook, async ({ app, params, body }, scope) =>
    ok(await outlookOf(app, scope, params.environment, body)),
  ),
];
