import Joi from 'joi';
import { customerParams, moneySchema, reason } from './common';
import { CUSTOMER_STATES } from './customers';
import { endpoint } from './endpoint';
import { RUN_STATES } from '../core/runs';
import { filled, listOf, maybe, maybeText, maybeWhole, oneOf, shape, text, whole, type Of } from './shape';

/** What a pause or a leaving would do. */
export const lifeSchema = shape({
  state: oneOf(CUSTOMER_STATES),
  environments: listOf(
    shape({
      id: text,
      name: text,
      site: text,
      hosts: whole,
      on: whole,
      peopleIn: whole,
    }),
  ),
  /** What a month costs as it stands, and while all is off: storage, licences and the plan go on. */
  now: moneySchema,
  paused: moneySchema,
  /** What it costs a month once a paused customer is started again; of one who is not paused what it costs now. */
  started: moneySchema,
  /** Days for which their data are kept after they have left, as their plan says. */
  retentionDays: whole,
  /** The run in which their environments are retired, the newest; null: there was none. */
  leaving: maybe(shape({ run: text, state: oneOf(RUN_STATES), done: whole, parts: whole })),
  /** When they left; null: they have not. */
  retiredAt: maybeWhole,
  /** When their data were deleted; null: they are kept. */
  deletedAt: maybeWhole,
});
export type Life = Of<typeof lifeSchema>;

const typed = {
  /** The customer's code, as typed. */
  code: Joi.string().max(16).required(),
  reason,
};

export const pauseSchema = shape({
  ...typed,
  minutes: filled(
    Joi.number()
      .integer()
      .min(0)
      .max(24 * 60),
    15,
  ),
  message: filled(Joi.string().trim().allow('').max(200), ''),
});
export type Pausing = Of<typeof pauseSchema>;

export const turnSchema = shape({ state: oneOf(CUSTOMER_STATES) });
/** `run`: the run over their environments; null: they have none. */
export const leaveSchema = shape({ state: oneOf(CUSTOMER_STATES), run: maybeText });

const area = 'Customers';

export const lifeEndpoints = {
  read: endpoint({
    method: 'GET',
    path: '/customers/{customer}/life',
    area,
    summary: 'What pausing the customer or their leaving would do, and what it costs while all is off',
    params: customerParams,
    answer: lifeSchema,
  }),
  pause: endpoint({
    method: 'POST',
    path: '/customers/{customer}/pause',
    area,
    summary: 'Pause the customer: every host goes off, nothing is lost',
    params: customerParams,
    right: 'build',
    body: pauseSchema,
    status: 201,
    answer: turnSchema,
  }),
  start: endpoint({
    method: 'POST',
    path: '/customers/{customer}/start',
    area,
    summary: 'Start a paused customer again: the hosts that the pause switched off come on',
    params: customerParams,
    right: 'build',
    body: shape({ reason }),
    status: 201,
    answer: turnSchema,
  }),
  leave: endpoint({
    method: 'POST',
    path: '/customers/{customer}/leave',
    area,
    summary: 'Let the customer leave: every environment is retired, and what they held is given back',
    params: customerParams,
    right: 'decide',
    body: shape(typed),
    status: 201,
    answer: leaveSchema,
  }),
  archive: endpoint({
    method: 'GET',
    path: '/customers/{customer}/archive.zip',
    area,
    summary:
      'All that is theirs to hand over: people, settings, trail, charges of every month and proofs, as open files',
    params: customerParams,
    right: 'build',
    responseType: 'application/zip',
  }),
};
