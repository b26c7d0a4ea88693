import { operatorEndpoints } from '../../contract';
import { created, ok, reads, writes } from '../http';
import { createOperator, listOperators } from '.';

export const operatorRoutes = [
  reads(operatorEndpoints.list, async ({ app }) => ok({ operators: await listOperators(app.db) })),
  writes(
    operatorEndpoints.create,
    ({ app, body }, scope) => createOperator(app, scope, body),
    (made) => created(made, '/api/v1/operators'),
  ),
];
