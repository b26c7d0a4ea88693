import Joi from 'joi';
import { listTrail } from '../../trail';
import { inside, ok, paged, within, type Route } from '../route';
import { customerParams, listQuery, maybeText, pageShape, shape, text, whole } from '../shapes';

const trailShape = shape({
  id: text,
  at: whole,
  customer: maybeText,
  actor: text,
  action: text,
  subject: text,
  run: maybeText,
  before: Joi.any(),
  after: Joi.any(),
  reason: text,
});

export const trailRoutes: readonly Route[] = [
  within({
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
  inside({
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
