import Joi from 'joi';
import type { ApprovalRule } from '../core/approval';
import { endpoint } from './endpoint';
import { flag, listOf, maybe, optional, shape, text, whole, type Of } from './shape';

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

const ruleFields = {
  above: (listOf(moneyAsked) as Joi.ArraySchema<ApprovalRule['above']>)
    .max(20)
    .unique('currency')
    .required()
    .messages({ 'array.unique': 'is there twice' }) as Joi.AnySchema<ApprovalRule['above']>,
  kinds: Joi.array().items(Joi.string().max(32)).max(60).unique().required() as Joi.AnySchema<
    readonly string[]
  >,
  leadsToo: flag,
};
export const approvalRuleSchema: Joi.AnySchema<ApprovalRule> = shape(ruleFields);
/** The rule as it holds for one who asks: with what they began lately without approval, in minor units a month. */
export const approvalFactsSchema = shape({ ...ruleFields, begun: optional(whole) });

/** The rule, and a looser one that a lead has proposed and another has yet to agree to. */
export const approvalStateSchema = shape({
  rule: approvalRuleSchema,
  proposed: maybe(shape({ rule: approvalRuleSchema, by: text, mine: flag })),
});
export type ApprovalState = Of<typeof approvalStateSchema>;

const area = 'Operators';

export const approvalEndpoints = {
  rule: endpoint({
    method: 'GET',
    path: '/approval-rule',
    area,
    summary: 'What needs approval by a lead who did not ask for it',
    answer: approvalStateSchema,
  }),
  keep: endpoint({
    method: 'PUT',
    path: '/approval-rule',
    area,
    inPerson: true,
    everyone: true,
    summary:
      'Change what needs approval by another lead; where leads need it too, a looser rule holds once a second lead sends it',
    right: 'decide',
    body: approvalRuleSchema,
    answer: approvalStateSchema,
  }),
};
