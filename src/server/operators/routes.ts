import { operatorEndpoints } from '../../contract';
import { created, ok, reads, writes } from '../http';
import { changeOperator } from './change';
import { keepGroupRules, listGroupRules, refuseListedReach } from './groups';
import { createOperator } from './invite';
import { changeableOf, operatorOf } from './read';

export const operatorRoutes = [
  writes(
    operatorEndpoints.create,
    ({ app, body }, scope) => createOperator(app, scope, body),
    (made) => created(made, '/api/v1/operators'),
  ),
  reads(operatorEndpoints.groups, async ({ app }, scope) => {
    refuseListedReach(scope);
    return ok({ rules: await listGroupRules(app.db) });
  }),
  writes(
    operatorEndpoints.keepGroups,
    ({ app, body }, scope) => keepGroupRules(app, scope, body.rules),
    async (_made, { app }) => ok({ rules: await listGroupRules(app.db) }),
    async (_ask, db) => ({ rules: await listGroupRules(db) }),
  ),
  writes(
    operatorEndpoints.change,
    ({ app, params, body }, scope) => changeOperator(app, scope, params.operator, body),
    async (_made, { app, params }) => ok(await operatorOf(app.db, params.operator, app.clock.wall())),
    ({ app, params }, db, scope) => changeableOf(db, scope, params.operator, app.clock.wall()),
  ),
];
