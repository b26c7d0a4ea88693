import { countSessions, listSessions, sessionCursor } from '../../sessions';
import { customerRoute, ok, paged, operatorRoute, type Route } from '../route';
import {
  customerParams,
  listOf,
  listQuery,
  maybeText,
  oneOf,
  pageShape,
  shape,
  text,
  whole,
} from '../shapes';

const sessionShape = shape({
  id: text,
  customer: text,
  account: text,
  person: maybeText,
  host: text,
  environment: maybeText,
  environmentId: maybeText,
  state: oneOf('active', 'idle'),
  since: whole,
});

export const sessionsRoutes: readonly Route[] = [
  operatorRoute({
    method: 'GET',
    path: '/sessions',
    area: 'Serve',
    summary: 'Who is signed in where, among the customers in your reach',
    query: listQuery,
    answer: pageShape(sessionShape),
    handle: async ({ app, query }, scope) =>
      ok(
        await paged(query.limit, (limit) => listSessions(app.db, scope, { ...query, limit }), sessionCursor),
      ),
  }),
  operatorRoute({
    method: 'GET',
    path: '/sessions/count',
    area: 'Serve',
    summary: 'How many sessions each customer in your reach has, the most first',
    answer: shape({ customers: listOf(shape({ customer: text, active: whole, idle: whole })) }),
    handle: async ({ app }, scope) => ok({ customers: await countSessions(app.db, scope) }),
  }),
  customerRoute({
    method: 'GET',
    path: '/customers/{customer}/sessions',
    area: 'Serve',
    summary: 'Who of the customer is signed in where',
    params: customerParams,
    query: listQuery,
    answer: pageShape(sessionShape),
    handle: async ({ app, query }, scope) =>
      ok(
        await paged(query.limit, (limit) => listSessions(app.db, scope, { ...query, limit }), sessionCursor),
      ),
  }),
];
