import { sessionActEndpoints } from '../../contract';
import { ok, reads, writes } from '../http';
import { beginAct, listActs, programsIn, proposeAct } from '.';

export const sessionActRoutes = [
  reads(sessionActEndpoints.propose, async ({ app, body }, scope) => ok(await proposeAct(app, scope, body))),
  writes(
    sessionActEndpoints.begin,
    ({ app, body }, scope) => beginAct(app, scope, body),
    (made) => ok(made),
  ),
  reads(sessionActEndpoints.programs, async ({ app, params }, scope) =>
    ok({ programs: await programsIn(app, scope, params.provider, params.session) }),
  ),
  reads(sessionActEndpoints.acts, async ({ app }, scope) => ok({ entries: await listActs(app.db, scope) })),
];
