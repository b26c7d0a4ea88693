import Joi from 'joi';
import type { Rate } from '../../../core/rating';
import { keepPlan, listPlans, type PlanRow } from '../../plans';
import { addRate, createCard, listCards, type NewCard } from '../../pricing';
import { created, ok, operatorRoute, type Route } from '../route';
import { listOf, shape, text, whole } from '../shapes';
import { rateShape } from './facts';

const planShape = shape({
  code: text,
  name: text,
  mostHosts: whole,
  mostPeople: whole,
  sizes: listOf(Joi.string()),
});

const code = Joi.string()
  .pattern(/^[a-z][a-z0-9-]{0,15}$/)
  .required();

export const offersRoutes: readonly Route[] = [
  operatorRoute({
    method: 'GET',
    path: '/plans',
    area: 'Money',
    summary: 'The plans, and what each allows',
    answer: shape({ plans: listOf(planShape) }),
    handle: async ({ app }) => ok({ plans: await listPlans(app.db) }),
  }),
  operatorRoute({
    method: 'PUT',
    path: '/plans/{plan}',
    area: 'Money',
    summary: 'Make a plan, or change what one allows from now on',
    params: Joi.object<{ plan: string }>({ plan: code }),
    body: Joi.object<Omit<PlanRow, 'code'>>({
      name: Joi.string().trim().max(80).required(),
      mostHosts: Joi.number().integer().min(1).max(100_000).required(),
      mostPeople: Joi.number().integer().min(1).max(1_000_000).required(),
      sizes: Joi.array().items(Joi.string().max(16)).default([]).description('Keys of sizes; empty: all'),
    }),
    roles: ['lead'],
    answer: planShape,
    work: ({ app, params, body }, scope) => keepPlan(app, scope, { code: params.plan, ...body }),
    reply: (_made, { params, body }) => ok({ code: params.plan, ...body }),
  }),
  operatorRoute({
    method: 'GET',
    path: '/cards',
    area: 'Money',
    summary: 'The rate cards with all their rates',
    answer: shape({
      cards: listOf(shape({ code: text, name: text, currency: text, rates: listOf(rateShape) })),
    }),
    handle: async ({ app }) => ok({ cards: await listCards(app.db) }),
  }),
  operatorRoute({
    method: 'POST',
    path: '/cards',
    area: 'Money',
    summary: 'Make a rate card: prices in one currency',
    body: Joi.object<NewCard>({
      code,
      name: Joi.string().trim().max(80).required(),
      currency: Joi.string().length(3).uppercase().required(),
    }),
    roles: ['lead', 'bookkeeper'],
    status: 201,
    answer: shape({ code: text }),
    work: ({ app, body }, scope) => createCard(app, scope, body),
    reply: (_made, { body }) => created({ code: body.code }, '/api/v1/cards'),
  }),
  operatorRoute({
    method: 'POST',
    path: '/cards/{card}/rates',
    area: 'Money',
    summary: 'Add a rate; one that goes on until further notice ends where it begins',
    params: Joi.object<{ card: string }>({ card: code }),
    body: Joi.object<Rate>({
      meter: Joi.string().max(32).required(),
      size: Joi.string().max(16).allow(null).default(null),
      unit: Joi.string().valid('hour', 'month').required(),
      price: Joi.string()
        .pattern(/^\d{1,6}(\.\d{1,6})?$/)
        .required()
        .messages({ 'string.pattern.base': 'a decimal number with at most six places' }),
      from: Joi.number().integer().required(),
      to: Joi.number().integer().greater(Joi.ref('from')).allow(null).default(null),
    }),
    roles: ['lead', 'bookkeeper'],
    status: 201,
    answer: shape({ card: text }),
    work: ({ app, params, body }, scope) => addRate(app, scope, params.card, body),
    reply: (_made, { params }) => created({ card: params.card }, '/api/v1/cards'),
  }),
];
