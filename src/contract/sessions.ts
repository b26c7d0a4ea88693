import Joi from 'joi';
import { customerParams, id, listKeys, pageOf } from './common';
import { endpoint } from './endpoint';
import { listOf, maybeText, oneOf, optional, shape, text, whole, type Of } from './shape';

/** Those that have ended are not kept. */
export const SESSION_STATES = ['active', 'idle'] as const;

export const sessionSchema = shape({
  id: text,
  provider: text,
  customer: text,
  account: text,
  person: maybeText,
  /** Our id of them; null: they are not known. */
  personId: maybeText,
  host: text,
  /** Our id of it; null: it is none of ours. */
  hostId: maybeText,
  environment: maybeText,
  environmentId: maybeText,
  state: oneOf(SESSION_STATES),
  since: whole,
  /** Since when it is active or idle. */
  stateSince: whole,
});
export type Session = Of<typeof sessionSchema>;

/** Of a list of sessions: only those that are so. */
export const sessionQuery = shape({
  ...listKeys,
  state: optional(oneOf(SESSION_STATES)).description('Only those that are so'),
  idleFor: optional(Joi.number().integer().min(1).max(100_000)).description(
    'Only those that are idle for so many minutes or more',
  ),
  environment: optional(id).description('Only those of one environment'),
}).optional();

export type SessionQuery = Of<typeof sessionQuery>;

export const sessionCountSchema = shape({ customer: text, active: whole, idle: whole });
export type SessionCount = Of<typeof sessionCountSchema>;

const area = 'Serve';

export const sessionEndpoints = {
  list: endpoint({
    method: 'GET',
    path: '/sessions',
    area,
    summary: 'Who is signed in where, among the customers in your reach',
    query: sessionQuery,
    answer: pageOf(sessionSchema),
  }),
  count: endpoint({
    method: 'GET',
    path: '/sessions/count',
    area,
    summary: 'How many sessions each customer in your reach has, the most first',
    answer: shape({ customers: listOf(sessionCountSchema) }),
  }),
  listInside: endpoint({
    method: 'GET',
    path: '/customers/{customer}/sessions',
    area,
    summary: 'Who of the customer is signed in where',
    params: customerParams,
    query: sessionQuery,
    answer: pageOf(sessionSchema),
  }),
};
