import Joi from 'joi';
import { MOST_MINUTES, SESSION_ACTS } from '../core/session-acts';
import { customerParams, customerCode, markSchema, plainLines, reason } from './common';
import { endpoint, question } from './endpoint';
import { filled, flag, listOf, maybe, oneOf, shape, text, whole, type Of } from './shape';

const keys = SESSION_ACTS.map(({ key }) => key);

/** How an act on a session stands. */
export const ACT_STATES = ['waiting', 'done', 'failed'] as const;

const sessionKey = shape({
  customer: customerCode,
  provider: Joi.string().max(16).required(),
  id: Joi.string().max(64).required(),
});
export type SessionKey = Of<typeof sessionKey>;

const asked = {
  act: oneOf(keys),
  sessions: (listOf(sessionKey) as Joi.ArraySchema<readonly SessionKey[]>)
    .min(1)
    .max(5_000)
    .messages({ 'array.min': 'choose at least one' }) as Joi.AnySchema<readonly SessionKey[]>,
  text: filled(
    Joi.string()
      .trim()
      .allow('')
      .max(400)
      .custom(plainLines)
      .description('What is said, or which program is ended'),
    '',
  ),
  minutes: filled(
    Joi.number().integer().min(0).max(MOST_MINUTES).description('So long people have, where it warns'),
    0,
  ),
};

export const actImpactSchema = shape({
  people: whole,
  hosts: whole,
  customers: listOf(shape({ code: text, name: text, mark: markSchema, people: whole })),
  /** Sessions that are over by now, or not in your reach. */
  gone: whole,
  endsWork: flag,
  /** What one of them reads, as an example of what all do; null: nobody reads anything. */
  reads: maybe(shape({ name: text, text })),
  line: text,
});
export type ActImpact = Of<typeof actImpactSchema>;

export const programSchema = shape({
  id: text,
  name: text,
  /** Of one vCPU, in hundredths. */
  load: whole,
  memoryMiB: whole,
  responds: flag,
});
export type SessionProgram = Of<typeof programSchema>;

const area = 'Serve';
const right = 'run';

export const sessionActEndpoints = {
  propose: question({
    path: '/sessions/acts/proposal',
    area,
    summary: 'Whom an act on sessions would touch, customer by customer; changes nothing',
    right,
    body: shape(asked),
    answer: actImpactSchema,
  }),
  begin: endpoint({
    method: 'POST',
    path: '/sessions/acts',
    area,
    summary: 'Sends a message to sessions, disconnects them, signs them out or ends a program in one',
    right,
    body: shape({ ...asked, reason }),
    answer: actImpactSchema,
  }),
  programs: endpoint({
    method: 'GET',
    path: '/customers/{customer}/sessions/{provider}/{session}/programs',
    area,
    summary: 'What runs in a session now, as its host says',
    right,
    params: shape({
      ...{ customer: customerCode },
      provider: Joi.string().max(16).required(),
      session: Joi.string().max(64).required(),
    }),
    answer: shape({ programs: listOf(programSchema) }),
  }),
  acts: endpoint({
    method: 'GET',
    path: '/customers/{customer}/session-acts',
    area,
    summary: 'What was done with the customer’s sessions lately, and to whom it came',
    params: customerParams,
    answer: shape({
      entries: listOf(
        shape({
          id: text,
          account: text,
          host: text,
          act: oneOf(keys),
          text,
          dueAt: whole,
          state: oneOf(ACT_STATES),
          says: text,
          actor: text,
        }),
      ),
    }),
  }),
};
