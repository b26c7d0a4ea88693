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

/** OWASP ASVS 4.0, 2.1.1 and 2.1.2: from 12 characters, and room for more than 128. */
export const newPassword = Joi.string()
  .min(12)
  .max(200)
  .required()
  .messages({ 'string.empty': 'choose one', 'string.min': 'at least 12 characters' });

export const newOperatorSchema = shape({
  name: ownName,
  mail: Joi.string().trim().email({ tlds: false }).max(254).required(),
  role: oneOf(ROLES),
  customers: filled(customers.description('Codes of the customers reached; left out: every customer'), null),
  password: newPassword,
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
