import Joi from 'joi';
import type { ApprovalRule } from '../core/approval';
import { endpoint } from './endpoint';
import { flag, listOf, shape } from './shape';

/** No more than that is said of any one change. */
const MOST_MINOR = 1_000_000_000_000;

const moneyAsked = shape({
  minor: Joi.number()
    .integer()
    .min(0)
    .max(MOST_MINOR)
    .required()
    .messages({ 'number.base': 'an amount', 'number.min': 'not less than nothing' }),
  currency: Joi.string()
    .pattern(/^[A-Z]{3}$/)
    .required()
    .messages({ 'string.pattern.base': 'three capital letters, by ISO 4217' }),
});

export const approvalRuleSchema: Joi.AnySchema<ApprovalRule> = shape({
  above: (listOf(moneyAsked) as Joi.ArraySchema<ApprovalRule['above']>)
    .max(20)
    .unique('currency')
    .required()
    .messages({ 'array.unique': 'is there twice' }) as Joi.AnySchema<ApprovalRule['above']>,
  kinds: Joi.array().items(Joi.string().max(32)).max(60).unique().required() as Joi.AnySchema<
    readonly string[]
  >,
  leadsToo: flag,
});

const area = 'Operators';

export const approvalEndpoints = {
  rule: endpoint({
    method: 'GET',
    path: '/approval-rule',
    area,
    summary: 'What needs the word of a lead who did not ask for it',
    answer: approvalRuleSchema,
  }),
  keep: endpoint({
    method: 'PUT',
    path: '/approval-rule',
    area,
    summary: 'Say anew what needs the word of a lead who did not ask for it',
    roles: ['lead'],
    body: approvalRuleSchema,
    answer: approvalRuleSchema,
  }),
};
