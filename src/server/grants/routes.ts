import { grantEndpoints } from '../../contract';
import { csvResponse, ok, reads, writes } from '../http';
import { noteDownload } from '../trail';
import {
  deskRules,
  grantFile,
  keepDeskRules,
  keptOut,
  listGroups,
  listItems,
  listMembers,
  outlookOf,
  personDetail,
  publishedIn,
  readGrantFile,
  why,
} from '.';

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
  reads(grantEndpoints.published, async ({ app, params }, scope) =>
    ok(await publishedIn(app, scope, params.environment)),
  ),
  writes(
    grantEndpoints.rules,
    ({ app, body }, scope) => keepDeskRules(app, scope, body),
    (kept) => ok(kept),
    (_ask, db, scope) => deskRules(db, scope),
  ),
  reads(grantEndpoints.file, async ({ app, params, body }, scope) =>
    ok(await readGrantFile(app, scope, params.environment, body)),
  ),
  reads(grantEndpoints.csv, async ({ app, params }, scope) => {
    const file = `${scope.customer.code}-grants.csv`;
    const text = await grantFile(app, scope, params.environment);
    await noteDownload(app, scope, file);
    return csvResponse(file, text);
  }),
  reads(grantEndpoints.outlook, async ({ app, params, body }, scope) =>
    ok(await outlookOf(app, scope, params.environment, body)),
  ),
];
