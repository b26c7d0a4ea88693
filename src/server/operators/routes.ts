import { operatorEndpoints } from '../../contract';
import { created, ok, writes } from '../http';
import { changeOperator } from './change';
import { createOperator } from './invite';
import { operatorOf } from './read';

export const operatorRoutes = [
  writes(
    operatorEndpoints.create,
    ({ app, body }, scope) => createOperator(app, scope, body),
    (made) => created(made, '/api/v1/operators'),
  ),
  writes(
    operatorEndpoints.change,
    ({ app, params, body }, scope) => changeOperator(app, scope, params.operator, body),
    async (_made, { app, params }) => ok(await operatorOf(app.db, params.operator, app.clock.wall())),
  ),
];
