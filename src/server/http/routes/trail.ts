import Joi from 'joi';
import { listTrail } from '../../trail';
import { customerRoute, ok, paged, operatorRoute, type Route } from '../route';
import { customerParams, listQuery, maybeText, pageShape, shape, text, whole } from '../shapes';

const trailShape = shape({
  id: text,
  at: whole,
  customer: maybeText,
  actor: text,
  action: text,
  subject: text,
  run: maybeText,
  before: Joi.any().description('How it stood, as JSON'),
  after: Joi.any().description('How it stands, as JSON'),
  reason: text,
});

export const trailRoutes: readonly Route[] = [
  operatorRoute({
    method: 'GET',
    path: '/trail',
    area: 'Trail',
    summary: 'Who did what to which customer in your reach, newest first',
    query: listQuery,
    answer: pageShape(trailShape),
    handle: async ({ app, query }, scope) =>
      ok(
        await paged(
          query.limit,
          (limit) => listTrail(app.db, scope, { ...query, limit }),
          (one) => one.id,
        ),
      ),
  }),
  customerRoute({
    method: 'GET',
    path: '/customers/{customer}/trail',
    area: 'Trail',
    summary: 'Who did what to this customer, newest first',
    params: customerParams,
    query: listQuery,
    answer: pageShape(trailShape),
    handle: async ({ app, query }, scope) =>
      ok(
        await paged(
          query.limit,
          (limit) => listTrail(app.db, scope, { ...query, limit }),
          (one) => one.id,
        ),
      ),
  }),
];
