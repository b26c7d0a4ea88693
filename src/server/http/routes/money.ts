import Joi from 'joi';
import { stringify } from 'csv-stringify/sync';
import { plain } from '../../../core/money';
import { monthCosts } from '../../costs';
import { customerRoute, ok, type Route } from '../route';
import { customerParams, flag, listOf, maybeText, moneyShape, shape, text, whole } from '../shapes';
import { csvResponse } from './customers';

interface MonthQuery {
  readonly month?: string;
}

const monthQuery = Joi.object<MonthQuery>({
  month: Joi.string()
    .pattern(/^\d{4}-(0[1-9]|1[0-2])$/)
    .description('Like 2026-11; left out: the present month in the customer’s zone')
    .messages({ 'string.pattern.base': 'write it like 2026-11' }),
});

export const moneyRoutes: readonly Route[] = [
  customerRoute({
    method: 'GET',
    path: '/customers/{customer}/costs',
    area: 'Money',
    summary: "A customer's month: charge lines, total so far, forecast, and each day's part",
    params: customerParams,
    query: monthQuery,
    answer: shape({
      month: text,
      zone: text,
      from: whole,
      to: whole,
      total: moneyShape,
      forecast: moneyShape,
      unpriced: whole,
      days: listOf(shape({ date: text, cost: moneyShape, whole: flag })),
      lines: listOf(
        shape({
          environment: text,
          pool: text,
          meter: text,
          size: maybeText,
          from: whole,
          to: whole,
          quantity: Joi.number().required(),
          unit: text,
          price: text,
          charge: moneyShape,
        }),
      ),
    }),
    handle: async ({ app, query }, scope) => ok(await monthCosts(app, app.db, scope, query.month)),
  }),
  customerRoute({
    method: 'GET',
    path: '/customers/{customer}/charges.csv',
    area: 'Money',
    summary: "A customer's charge lines of a month as CSV (RFC 4180); amounts are exact decimals",
    params: customerParams,
    query: monthQuery,
    responseType: 'text/csv',
    handle: async ({ app, query }, scope) => {
      const costs = await monthCosts(app, app.db, scope, query.month);
      const rows = costs.lines.map((line) => ({
        customer: scope.customer.code,
        month: costs.month,
        environment: line.environment,
        pool: line.pool,
        meter: line.meter,
        size: line.size ?? '',
        from: new Date(line.from).toISOString(),
        to: new Date(line.to).toISOString(),
        quantity: line.quantity,
        unit: line.unit,
        price: line.price,
        charge: plain(line.charge),
        currency: line.charge.currency,
      }));
      return csvResponse(
        `${scope.customer.code}-charges-${costs.month}.csv`,
        stringify(rows, { header: true, columns: CHARGE_COLUMNS, record_delimiter: '\r\n' }),
      );
    },
  }),
];

const CHARGE_COLUMNS = [
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
];
