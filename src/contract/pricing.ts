import Joi from 'joi';
import { RATE_UNITS, type Rate } from '../core/rating';
import { ownCode, ownName } from './common';
import { endpoint } from './endpoint';
import { filled, listOf, maybe, oneOf, shape, text, type Of } from './shape';

const price = Joi.string()
  .pattern(/^\d{1,6}(\.\d{1,6})?$/)
  .required()
  .messages({ 'string.pattern.base': 'a decimal number with at most six places' });
const instant = Joi.number().integer().required();

const rate = {
  meter: Joi.string().max(32).required(),
  size: maybe(Joi.string().max(16).required()),
  unit: oneOf(RATE_UNITS),
  price,
  from: instant,
  to: maybe(instant),
};
export const rateSchema: Joi.ObjectSchema<Rate> = shape(rate);

export const newRateSchema = shape({
  ...rate,
  size: filled(rate.size, null),
  to: filled(maybe(Joi.number().integer().greater(Joi.ref('from'))), null),
});

export const cardSchema = shape({ code: text, name: text, currency: text, rates: listOf(rateSchema) });
export type Card = Of<typeof cardSchema>;

export const newCardSchema = shape({
  code: ownCode,
  name: ownName,
  currency: Joi.string().length(3).uppercase().required(),
  rates: filled(
    (listOf(newRateSchema) as Joi.ArraySchema<readonly Rate[]>).max(500) as Joi.AnySchema<readonly Rate[]>,
    [],
  ),
});
export type NewCard = Of<typeof newCardSchema>;

/** A rate as someone fills it in. */
export const rateFormSchema = shape({ price, from: maybe(instant) });

const area = 'Money';

export const pricingEndpoints = {
  list: endpoint({
    method: 'GET',
    path: '/cards',
    area,
    summary: 'The rate cards with all their rates',
    answer: shape({ cards: listOf(cardSchema) }),
  }),
  create: endpoint({
    method: 'POST',
    path: '/cards',
    area,
    everyone: true,
    summary: 'Make a rate card: prices in one currency, with rates to begin with',
    right: 'book',
    body: newCardSchema,
    status: 201,
    answer: shape({ code: text }),
  }),
  addRate: endpoint({
    method: 'POST',
    path: '/cards/{card}/rates',
    area,
    everyone: true,
    summary: 'Add a rate; one that goes on until further notice ends where it begins',
    params: shape({ card: ownCode }),
    right: 'book',
    body: newRateSchema,
    status: 201,
    answer: shape({ card: text }),
  }),
};
