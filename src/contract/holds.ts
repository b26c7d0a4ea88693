import Joi from 'joi';
import { customerCode, customerParams, id, reason } from './common';
import { fingerprintedSchema } from './changes';
import { endpoint } from './endpoint';
import { flag, listOf, maybeText, shape, text, whole, type Of } from './shape';

export const holdSchema = shape({
  id: text,
  kind: text,
  verb: text,
  title: text,
  environment: maybeText,
  actor: text,
  reason: text,
  /** Why a lead who did not ask for it has to begin it; null: whoever may begin the change may. */
  waits: maybeText,
  madeAt: whole,
  until: whole,
});
export type Hold = Of<typeof holdSchema>;

export const heldSchema = shape({
  hold: holdSchema,
  /** Whether the customer's code has to be typed to begin it. */
  typesCode: flag,
  /** As it would be now. */
  now: fingerprintedSchema,
  /** Whether that is what was held. */
  same: flag,
});
export type Held = Of<typeof heldSchema>;

/** A held proposal that waits for a lead's word, and whose it is. */
export const awaitedSchema = shape({ customer: text, hold: holdSchema });
export type Awaited = Of<typeof awaitedSchema>;

const holdParams = shape({ customer: customerCode, hold: id });
const area = 'Changes';

export const holdEndpoints = {
  list: endpoint({
    method: 'GET',
    path: '/customers/{customer}/holds',
    area,
    summary: 'Proposals that are held for the customer, the first to end first',
    params: customerParams,
    own: true,
    answer: shape({ holds: listOf(holdSchema) }),
  }),
  awaited: endpoint({
    method: 'GET',
    path: '/awaited',
    area,
    summary: 'Held proposals in your reach that wait for a lead’s word, the first to end first; 200 at most',
    answer: shape({ awaited: listOf(awaitedSchema) }),
  }),
  read: endpoint({
    method: 'GET',
    path: '/customers/{customer}/holds/{hold}',
    area,
    summary: 'A held proposal as it would be now',
    params: holdParams,
    own: true,
    answer: heldSchema,
  }),
  begin: endpoint({
    method: 'POST',
    path: '/customers/{customer}/holds/{hold}/begin',
    area,
    summary: 'Begins a held proposal as it was held; whoever may begin the change may, also someone else',
    params: holdParams,
    own: true,
    right: 'build',
    body: shape({
      fingerprint: Joi.string().max(40).required(),
      reason,
      code: Joi.string().max(16).allow('').optional() as Joi.AnySchema<string | undefined>,
    }),
    status: 201,
    answer: shape({ run: text, environment: text }),
  }),
  giveBack: endpoint({
    method: 'DELETE',
    path: '/customers/{customer}/holds/{hold}',
    area,
    summary: 'Gives back what a held proposal keeps',
    params: holdParams,
    own: true,
    right: 'build',
    status: 204,
  }),
};
