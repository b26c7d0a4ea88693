import { customerParams, listQuery, pageOf } from './common';
import { endpoint } from './endpoint';
import { listOf, maybeText, oneOf, shape, text, whole, type Of } from './shape';

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
  environment: maybeText,
  environmentId: maybeText,
  state: oneOf(SESSION_STATES),
  since: whole,
});
export type Session = Of<typeof sessionSchema>;

export const sessionCountSchema = shape({ customer: text, active: whole, idle: whole });
export type SessionCount = Of<typeof sessionCountSchema>;

const area = 'Serve';

export const sessionEndpoints = {
  list: endpoint({
    method: 'GET',
    path: '/sessions',
    area,
    summary: 'Who is signed in where, among the customers in your reach',
    query: listQuery,
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
    query: listQuery,
    answer: pageOf(sessionSchema),
  }),
};
