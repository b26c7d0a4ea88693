import Joi from 'joi';
import { ownName } from './common';
import { endpoint } from './endpoint';
import { ROLES } from './roles';
import { filled, listOf, maybe, oneOf, shape, text, type Of } from './shape';

const customers = maybe(listOf(Joi.string().max(16)));

export const operatorSchema = shape({
  id: text,
  name: text,
  mail: text,
  role: oneOf(ROLES),
  /** Codes of the customers reached; null: every customer. */
  customers,
});
export type Operator = Of<typeof operatorSchema>;

export const newOperatorSchema = shape({
  name: ownName,
  mail: Joi.string().trim().email({ tlds: false }).max(254).required(),
  role: oneOf(ROLES),
  customers: filled(customers.description('Codes of the customers reached; left out: every customer'), null),
  password: Joi.string().min(12).max(200).required(),
});
export type NewOperator = Of<typeof newOperatorSchema>;

const area = 'Operators';

export const operatorEndpoints = {
  list: endpoint({
    method: 'GET',
    path: '/operators',
    area,
    summary: 'Who works here, and whom each reaches',
    roles: ['lead'],
    answer: shape({ operators: listOf(operatorSchema) }),
  }),
  create: endpoint({
    method: 'POST',
    path: '/operators',
    area,
    summary: 'Take on an operator',
    roles: ['lead'],
    body: newOperatorSchema,
    status: 201,
    answer: shape({ id: text }),
  }),
};
