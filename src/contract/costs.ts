import Joi from 'joi';
import { customerParams, moneySchema } from './common';
import { endpoint } from './endpoint';
import { flag, listOf, maybeText, number, optional, shape, text, whole, type Of } from './shape';

export const chargeLineSchema = shape({
  environment: text,
  pool: text,
  meter: text,
  size: maybeText,
  from: whole,
  to: whole,
  quantity: number,
  unit: text,
  price: text,
  charge: moneySchema,
});
export type ChargeLine = Of<typeof chargeLineSchema>;

export const dayCostSchema = shape({ date: text, cost: moneySchema, whole: flag });

export const monthCostsSchema = shape({
  month: text,
  zone: text,
  from: whole,
  /** The end of what is counted: now, or the month's end. */
  to: whole,
  total: moneySchema,
  forecast: moneySchema,
  /** Usage for which no rate holds. */
  unpriced: whole,
  days: listOf(dayCostSchema),
  lines: listOf(chargeLineSchema),
});
export type MonthCosts = Of<typeof monthCostsSchema>;

/** The columns of the file of charges; amounts are exact decimals. */
export const CHARGE_COLUMNS = [
  'customer',
  'month',
  'environment',
  'pool',
  'meter',
  'size',
  'from',
  'to',
  'quantity',
  'unit',
  'price',
  'charge',
  'currency',
] as const;

const monthQuery = shape({
  month: optional(
    Joi.string()
      .pattern(/^\d{4}-(0[1-9]|1[0-2])$/)
      .description('Like 2026-11; left out: the present month in the customer’s zone')
      .messages({ 'string.pattern.base': 'write it like 2026-11' }),
  ),
}).optional();

const area = 'Money';

export const costEndpoints = {
  month: endpoint({
    method: 'GET',
    path: '/customers/{customer}/costs',
    area,
    summary: "A customer's month: charge lines, total so far, forecast, and each day's part",
    params: customerParams,
    query: monthQuery,
    answer: monthCostsSchema,
  }),
  csv: endpoint({
    method: 'GET',
    path: '/customers/{customer}/charges.csv',
    area,
    summary: "A customer's charge lines of a month as CSV (RFC 4180); amounts are exact decimals",
    params: customerParams,
    query: monthQuery,
    responseType: 'text/csv',
  }),
};
