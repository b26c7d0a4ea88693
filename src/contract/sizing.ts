import Joi from 'joi';
import { POOL_VERDICTS, PROFILE_KEYS, type ProfileNeed } from '../core/sizing';
import { customerParams, moneySchema } from './common';
import { endpoint } from './endpoint';
import { filled, listOf, maybe, maybeWhole, oneOf, shape, text, whole, type Of } from './shape';
import { rateSchema } from './pricing';
import { sizeSchema } from './sites';

const above = (most: number): Joi.NumberSchema => Joi.number().greater(0).max(most).precision(2).required();

export const profileNeedSchema: Joi.ObjectSchema<ProfileNeed> = shape({
  key: oneOf(PROFILE_KEYS),
  peoplePerVcpu: above(64),
  memoryGiB: above(512),
  diskOperations: above(10_000),
  graphicsGiB: filled(Joi.number().min(0).max(512).precision(2), 0),
  source: Joi.string()
    .trim()
    .max(200)
    .required()
    .messages({ 'string.empty': 'say where the figures come from' }),
});

/** A pool as it was measured: the most that were in at once, and what that says of its size. */
export const measuredPoolSchema = shape({
  environment: text,
  environmentId: text,
  pool: text,
  profile: oneOf(PROFILE_KEYS),
  size: text,
  seats: whole,
  hosts: whole,
  people: whole,
  /** What one of its hosts costs a month, at the customer's rates; null: some of it has no price. */
  monthly: maybe(moneySchema),
  /** Null: nothing was measured yet. */
  peak: maybeWhole,
  verdict: maybe(oneOf(POOL_VERDICTS)),
  needed: whole,
  /** The most that were in at once in each hour of the week, from Monday midnight, in the customer's zone; null: not measured. */
  week: listOf(maybeWhole),
});
export type MeasuredPool = Of<typeof measuredPoolSchema>;

export const sizingSchema = shape({
  currency: text,
  people: whole,
  zone: text,
  rates: listOf(rateSchema),
  now: whole,
  sites: listOf(shape({ code: text, name: text, sizes: listOf(sizeSchema) })),
  needs: listOf(
    shape({
      key: oneOf(PROFILE_KEYS),
      peoplePerVcpu: Joi.number().required(),
      memoryGiB: Joi.number().required(),
      diskOperations: Joi.number().required(),
      graphicsGiB: Joi.number().required(),
      source: text,
    }),
  ),
  pools: listOf(measuredPoolSchema),
});
export type Sizing = Of<typeof sizingSchema>;

const area = 'Sizing';

export const sizingEndpoints = {
  read: endpoint({
    method: 'GET',
    path: '/customers/{customer}/sizing',
    area,
    summary:
      'What sizing goes by: sizes and rates of each site, what work takes there, and what was measured of each pool',
    params: customerParams,
    answer: sizingSchema,
  }),
  keepNeeds: endpoint({
    method: 'PUT',
    path: '/customers/{customer}/profiles',
    area,
    summary:
      'Says what a kind of work takes at the customer, with where the figures come from; those left out are as usual',
    params: customerParams,
    right: 'build',
    body: shape({
      needs: Joi.array<ProfileNeed[]>()
        .items(profileNeedSchema.optional())
        .max(PROFILE_KEYS.length)
        .unique('key')
        .required(),
    }),
    answer: sizingSchema,
  }),
};
