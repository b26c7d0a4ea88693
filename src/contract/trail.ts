import Joi from 'joi';
import { customerCode, customerParams, id, listQuery, pageOf } from './common';
import { endpoint } from './endpoint';
import { ROLES } from './roles';
import { flag, maybe, maybeText, oneOf, shape, text, whole, type Of } from './shape';

/** What an entry of the trail was about, before and after: flat where it can be; each action has keys of its own. */
const stateOf = (says: string): Joi.AnySchema<unknown> =>
  Joi.alternatives(Joi.object(), Joi.array(), Joi.string().allow(''), Joi.number(), Joi.boolean())
    .allow(null)
    .required()
    .description(says);

export const trailEntrySchema = shape({
  id: text,
  at: whole,
  /** Null: it is the MSP's own. */
  customer: maybeText,
  actor: text,
  /** Null: it was Laager itself. */
  role: maybe(oneOf(ROLES)),
  action: text,
  subject: text,
  run: maybeText,
  before: stateOf('How it stood, as JSON'),
  after: stateOf('How it stands, as JSON'),
  isLong: flag.description(
    'Of a list: what was before and after is too long for it and left out; the entry itself has it',
  ),
  reason: text,
});
export type TrailEntry = Of<typeof trailEntrySchema>;

/** Of an entry, what a page tells of what was done lately. */
export const recentSchema = shape({
  id: text,
  at: whole,
  actor: text,
  action: text,
  subject: text,
  run: maybeText,
});
export type Recent = Of<typeof recentSchema>;

const area = 'Trail';

export const trailEndpoints = {
  list: endpoint({
    method: 'GET',
    path: '/trail',
    area,
    summary: 'Who did what to which customer in your reach, newest first',
    query: listQuery,
    answer: pageOf(trailEntrySchema),
  }),
  one: endpoint({
    method: 'GET',
    path: '/trail/{entry}',
    area,
    summary: 'One entry of the trail, with all that was before and after',
    params: shape({ entry: id }),
    answer: trailEntrySchema,
  }),
  listInside: endpoint({
    method: 'GET',
    path: '/customers/{customer}/trail',
    area,
    summary: 'Who did what to this customer, newest first',
    params: customerParams,
    query: listQuery,
    answer: pageOf(trailEntrySchema),
  }),
  oneInside: endpoint({
    method: 'GET',
    path: '/customers/{customer}/trail/{entry}',
    area,
    summary: 'One entry of this customer’s trail, with all that was before and after',
    params: shape({ customer: customerCode, entry: id }),
    answer: trailEntrySchema,
  }),
};
