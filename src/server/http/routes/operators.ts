import Joi from 'joi';
import { createOperator, listOperators, type NewOperator } from '../../operators';
import { created, ok, operatorRoute, type Route } from '../route';
import { listOf, oneOf, shape, text } from '../shapes';

export const operatorsRoutes: readonly Route[] = [
  operatorRoute({
    method: 'GET',
    path: '/operators',
    area: 'Operators',
    summary: 'Who works here, and whom each reaches',
    roles: ['lead'],
    answer: shape({
      operators: listOf(
        shape({
          id: text,
          name: text,
          mail: text,
          role: oneOf('engineer', 'lead', 'bookkeeper'),
          customers: Joi.array().items(Joi.string()).allow(null).required(),
        }),
      ),
    }),
    handle: async ({ app }) => ok({ operators: await listOperators(app.db) }),
  }),
  operatorRoute({
    method: 'POST',
    path: '/operators',
    area: 'Operators',
    summary: 'Take on an operator',
    body: Joi.object<NewOperator>({
      name: Joi.string().trim().min(1).max(80).required(),
      mail: Joi.string().trim().email({ tlds: false }).max(254).required(),
      role: Joi.string().valid('engineer', 'lead', 'bookkeeper').required(),
      customers: Joi.array()
        .items(Joi.string().max(16))
        .allow(null)
        .default(null)
        .description('Codes of the customers reached; left out: every customer'),
      password: Joi.string().min(12).max(200).required(),
    }),
    roles: ['lead'],
    status: 201,
    answer: shape({ id: text }),
    work: ({ app, body }, scope) => createOperator(app, scope, body),
    reply: (made) => created(made, '/api/v1/operators'),
  }),
];
