import Joi from 'joi';
import { customerCode, customerParams, listQuery, markSchema, pageOf } from './common';
import { endpoint } from './endpoint';
import { filled, listOf, oneOf, shape, text, whole, type Of } from './shape';

export const CUSTOMER_STATES = ['active', 'trial', 'paused', 'leaving', 'retired'] as const;
export type CustomerState = (typeof CUSTOMER_STATES)[number];

export const customerSchema = shape({
  code: text,
  name: text,
  state: oneOf(CUSTOMER_STATES),
  plan: text,
  site: text,
  siteName: text,
  zone: text,
  currency: text,
  realm: text,
  people: whole,
  hosts: whole,
  blocks: listOf(shape({ site: text, cidr: text })),
  mark: markSchema,
});
export type Customer = Of<typeof customerSchema>;

export const newCustomerSchema = shape({
  code: customerCode,
  name: Joi.string().trim().max(120).required(),
  state: filled(oneOf(['active', 'trial']), 'active'),
  plan: Joi.string().max(16).required(),
  site: Joi.string().max(16).required(),
  zone: Joi.string().max(64).required().description('Of the IANA time zone database'),
  currency: Joi.string().length(3).uppercase().required(),
  card: Joi.string().max(16).required().description('Its rate card, in its currency'),
});
export type NewCustomer = Of<typeof newCustomerSchema>;

const area = 'Customers';

export const customerEndpoints = {
  list: endpoint({
    method: 'GET',
    path: '/customers',
    area,
    summary: 'The customers in your reach, by code',
    query: listQuery,
    answer: pageOf(customerSchema),
  }),
  create: endpoint({
    method: 'POST',
    path: '/customers',
    area,
    summary: 'Take on a customer',
    roles: ['engineer', 'lead'],
    body: newCustomerSchema,
    status: 201,
    answer: shape({ id: text }),
  }),
  read: endpoint({
    method: 'GET',
    path: '/customers/{customer}',
    area,
    summary: 'One customer',
    params: customerParams,
    answer: customerSchema,
  }),
};
