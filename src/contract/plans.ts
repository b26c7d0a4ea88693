import Joi from 'joi';
import { ownCode, ownName } from './common';
import { endpoint } from './endpoint';
import { filled, listOf, shape, text, type Of } from './shape';

const count = (most: number): Joi.NumberSchema => Joi.number().integer().min(1).max(most).required();

const limits = {
  name: ownName,
  mostHosts: count(100_000),
  mostPeople: count(1_000_000),
  sizes: filled(
    listOf(Joi.string().max(16).required()).description('Keys of the sizes that it allows; empty: all'),
    [],
  ),
};
export const planLimitsSchema = shape(limits);

/** What a customer may buy. */
export const planSchema = shape({ code: text, ...limits });
export type Plan = Of<typeof planSchema>;

const area = 'Money';

export const planEndpoints = {
  list: endpoint({
    method: 'GET',
    path: '/plans',
    area,
    summary: 'The plans, and what each allows',
    answer: shape({ plans: listOf(planSchema) }),
  }),
  keep: endpoint({
    method: 'PUT',
    path: '/plans/{plan}',
    area,
    summary: 'Make a plan, or change what one allows from now on',
    params: shape({ plan: ownCode }),
    roles: ['lead'],
    body: planLimitsSchema,
    answer: planSchema,
  }),
};
