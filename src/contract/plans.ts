import Joi from 'joi';
import { LIMITS, type Allowance, type Amounts, type Most, type PlanFee } from '../core/plans';
import { METERED, type Included } from '../core/rating';
import { customerCode, customerParams, id, moneySchema, ownCode, ownName, reason } from './common';
import { parentWish } from './parent-runs';
import { endpoint, question } from './endpoint';
import {
  filled,
  flag,
  listOf,
  maybe,
  maybeWhole,
  oneOf,
  optional,
  shape,
  text,
  whole,
  type Of,
} from './shape';

const INCLUDABLE = METERED.filter(({ bySize }) => !bySize).map(({ meter }) => meter);

const most: Joi.AnySchema<number | null> = Joi.number()
  .integer()
  .min(0)
  .max(1_000_000_000)
  .allow(null)
  .required();
/** The most of each; null: as much as one likes. */
export const mostSchema: Joi.ObjectSchema<Most> = shape({
  people: most,
  hosts: most,
  vcpu: most,
  memoryGiB: most,
  storageGiB: most,
  personal: most,
});
export const amountsSchema: Joi.ObjectSchema<Amounts> = shape({
  people: whole,
  hosts: whole,
  vcpu: whole,
  memoryGiB: whole,
  storageGiB: whole,
  personal: whole,
});
const feeSchema: Joi.ObjectSchema<PlanFee> = shape({
  currency: Joi.string()
    .pattern(/^[A-Z]{3}$/)
    .required()
    .messages({ 'string.pattern.base': 'is no currency of ISO 4217' }),
  monthly: Joi.string()
    .pattern(/^\d{1,9}(\.\d{1,4})?$/)
    .required()
    .messages({ 'string.pattern.base': 'write it like 120.00' }),
});

const includedSchema: Joi.ObjectSchema<Included> = shape({
  meter: oneOf(INCLUDABLE),
  quantity: Joi.number().integer().min(1).max(1_000_000).required(),
});

/** What one version of a plan says. */
const terms = {
  most: mostSchema,
  sizes: filled(
    listOf(Joi.string().max(16).required()).description('Keys of the sizes that it allows; empty: all'),
    [],
  ),
  sites: filled(
    listOf(Joi.string().max(16).required()).description('Codes of the sites that it allows; empty: all'),
    [],
  ),
  fees: filled(
    (listOf(feeSchema) as Joi.ArraySchema<readonly PlanFee[]>)
      .max(20)
      .unique('currency')
      .messages({ 'array.unique': 'one currency is there twice' })
      .description('What it costs a month, in each currency in which it is sold') as Joi.AnySchema<
      readonly PlanFee[]
    >,
    [],
  ),
  included: filled(
    (listOf(includedSchema) as Joi.ArraySchema<readonly Included[]>)
      .unique('meter')
      .description('What of the metered things is in the fee, all month long: GiB or seats') as Joi.AnySchema<
      readonly Included[]
    >,
    [],
  ),
  retentionDays: filled(
    Joi.number().integer().min(0).max(36_500).description('Days for which data are kept after someone left'),
    30,
  ),
  localAdministrator: filled(Joi.boolean(), false),
  readyHosts: filled(
    Joi.number()
      .integer()
      .min(0)
      .max(50)
      .description('Hosts that a new environment gets from the ready shelf, where they are ready'),
    0,
  ),
};
export const planTermsSchema = shape(terms);

/** A plan as it holds for a customer: the terms of its version, and what a lead allowed beyond them. */
const allowanceFacts: Joi.ObjectSchema<Allowance> = shape({
  limit: oneOf(LIMITS),
  most: whole,
  until: whole,
});
export const planFactsSchema = shape({ name: text, ...terms, allowances: listOf(allowanceFacts) });

/** A version of a plan, and who is on it. */
export const planVersionSchema = shape({
  version: whole,
  /** From when on it can be had. */
  from: whole,
  note: text,
  ...terms,
  /** Codes of the customers in reach that are on it. */
  customers: listOf(text),
  /** How many more are on it, out of reach. */
  others: whole,
});
export type PlanVersion = Of<typeof planVersionSchema>;

/** What a customer may buy: its versions, the newest first. Who is on one stays on it until they are moved. */
export const planSchema = shape({ code: text, name: text, versions: listOf(planVersionSchema) });
export type Plan = Of<typeof planSchema>;

export const newVersionSchema = shape({
  name: ownName,
  ...terms,
  from: filled(maybe(whole).description('From when on it can be had; left out: from now on'), null),
  note: filled(Joi.string().trim().allow('').max(200), ''),
});
export type NewVersion = Of<typeof newVersionSchema>;

/** What is filled in for a plan: as it is sent, with its code, and fees that may be left empty. @param taken codes that are a plan's */
export const planFormSchema = (taken: readonly string[]): Joi.ObjectSchema =>
  (newVersionSchema as Joi.ObjectSchema).keys({
    code: ownCode.invalid(...taken).messages({ 'any.invalid': 'is a plan already' }),
    fees: listOf(feeSchema.keys({ monthly: feeSchema.extract('monthly').allow('') })),
    included: listOf(includedSchema.keys({ quantity: includedSchema.extract('quantity').allow(0) })),
  });

/** A limit raised for one customer, until a day. */
export const allowanceSchema = shape({
  id: text,
  limit: oneOf(LIMITS),
  most: whole,
  until: whole,
  reason: text,
  /** Who allowed it, and when. */
  actor: text,
  madeAt: whole,
});
export type AllowanceEntry = Of<typeof allowanceSchema>;

/** A stay on a version of a plan. */
const planned = { plan: text, name: text, version: whole, from: whole };
const plannedSchema = shape(planned);

/** A customer's plan: what it allows, what of it is taken, and what was allowed beyond it. */
export const customerPlanSchema = shape({
  ...planned,
  ...terms,
  takes: amountsSchema,
  allowances: listOf(allowanceSchema),
  /** What it has that the plan does not allow, in plain words. */
  beyond: listOf(text),
  /** The plans that it was on, is on and will be on, in order of time. */
  stays: listOf(plannedSchema),
});
export type CustomerPlan = Of<typeof customerPlanSchema>;

const move = {
  plan: Joi.string().max(16).required(),
  version: filled(maybe(whole).description('Left out: the newest that can be had then'), null),
  from: filled(maybe(whole).description('From when on; left out: from now on'), null),
};
export const moveSchema = shape({
  ...move,
  allowUntil: filled(
    maybeWhole.description('Until when what the plan does not allow is allowed; only a lead may say so'),
    null,
  ),
  reason,
});
export type Move = Of<typeof moveSchema>;

/** What would come of a move to another plan. */
export const moveProposalSchema = shape({
  name: text,
  version: whole,
  from: whole,
  differences: listOf(shape({ title: text, from: text, to: text, less: optional(flag) })),
  /** What the customer has that it would not allow; with `limit` where a lead may allow it for a while. */
  findings: listOf(shape({ says: text, limit: optional(oneOf(LIMITS)), amount: optional(whole) })),
  /** What it costs a month more; null where it is not sold in the customer's currency. */
  monthly: maybe(moneySchema),
});
export type MoveProposal = Of<typeof moveProposalSchema>;

/** Everyone in reach who is on another version of a plan, and what would come of moving each to the one that is named. */
export const movesProposalSchema = shape({
  version: whole,
  from: whole,
  customers: listOf(
    shape({
      code: text,
      name: text,
      /** The version that they are on then. */
      version: whole,
      findings: listOf(text),
      monthly: maybe(moneySchema),
    }),
  ),
});
export type MovesProposal = Of<typeof movesProposalSchema>;

export const movesSchema = shape({
  version: whole,
  from: filled(maybe(whole).description('From when on; left out: from now on'), null),
  customers: Joi.array<string[]>().items(customerCode).min(1).max(1_000).unique().required(),
  /** How many those are, as whoever sends it counts them. */
  count: whole,
  reason,
  ...parentWish,
});
export type Moves = Of<typeof movesSchema>;

/** The run over them: it tells who was moved, and who was left where they are and why. */
export const movedSchema = shape({ run: text });

export const newAllowanceSchema = shape({
  limit: oneOf(LIMITS),
  most: Joi.number().integer().min(1).max(1_000_000_000).required(),
  until: whole,
  reason: Joi.string().trim().min(3).max(250).required().messages({
    'string.empty': 'say why: it is on the trail and on the customer’s page',
    'string.min': 'say why: it is on the trail and on the customer’s page',
  }),
});
export type NewAllowance = Of<typeof newAllowanceSchema>;

const area = 'Money';

export const planEndpoints = {
  list: endpoint({
    method: 'GET',
    path: '/plans',
    area,
    summary: 'The plans in all their versions, and who is on which',
    answer: shape({ plans: listOf(planSchema) }),
  }),
  keep: endpoint({
    method: 'PUT',
    path: '/plans/{plan}',
    area,
    everyone: true,
    summary: 'Make a plan, or a further version of one: who is on it stays on theirs until they are moved',
    params: shape({ plan: ownCode }),
    right: 'sell',
    body: newVersionSchema,
    answer: shape({ plan: text, version: whole }),
  }),
  proposeMoves: endpoint({
    method: 'GET',
    path: '/plans/{plan}/moves',
    area,
    summary: 'Who is on another version of the plan, and what would come of moving each',
    params: shape({ plan: ownCode }),
    query: shape({
      version: optional(whole).description('Left out: the newest that can be had then'),
      from: optional(whole).description('From when on; left out: from now on'),
    }).optional(),
    answer: movesProposalSchema,
  }),
  moveMany: endpoint({
    method: 'POST',
    path: '/plans/{plan}/moves',
    area,
    summary:
      'Move the customers that are named to a version of the plan, in a run over all of them; who would not fit is left where they are, and named in it',
    params: shape({ plan: ownCode }),
    right: 'sell',
    body: movesSchema,
    status: 201,
    answer: movedSchema,
  }),
  ofCustomer: endpoint({
    method: 'GET',
    path: '/customers/{customer}/plan',
    area,
    summary: 'The customer’s plan, what of it is taken, and what was allowed beyond it',
    params: customerParams,
    answer: customerPlanSchema,
  }),
  proposeMove: question({
    path: '/customers/{customer}/plan/proposal',
    area,
    summary: 'What would come of a move to another plan',
    params: customerParams,
    body: shape(move),
    answer: moveProposalSchema,
  }),
  move: endpoint({
    method: 'POST',
    path: '/customers/{customer}/plan',
    area,
    summary: 'Move the customer to another plan',
    params: customerParams,
    right: 'sell',
    body: moveSchema,
    status: 201,
    answer: plannedSchema,
  }),
  allow: endpoint({
    method: 'POST',
    path: '/customers/{customer}/allowances',
    area,
    summary: 'Raise a limit of the plan for this customer, until a day',
    params: customerParams,
    right: 'sell',
    body: newAllowanceSchema,
    status: 201,
    answer: shape({ id: text }),
  }),
  endAllowance: endpoint({
    method: 'DELETE',
    path: '/customers/{customer}/allowances/{allowance}',
    area,
    summary: 'End what was allowed beyond the plan',
    params: shape({ customer: customerCode, allowance: id }),
    right: 'sell',
    status: 204,
  }),
};
