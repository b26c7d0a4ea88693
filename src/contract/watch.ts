import Joi from 'joi';
import { arcSchema, customerParams, markSchema, moneySchema } from './common';
import { CUSTOMER_STATES } from './customers';
import { endpoint } from './endpoint';
import { runSchema } from './runs';
import { listOf, oneOf, shape, text, texts, whole, type Of } from './shape';

/** Something that someone should look at. */
export const attentionSchema = shape({
  kind: oneOf(['drift', 'money', 'plan', 'gateway', 'run', 'provider', 'approval', 'directory']),
  says: text,
});
export type Attention = Of<typeof attentionSchema>;

export const summarySchema = shape({
  code: text,
  name: text,
  state: oneOf(CUSTOMER_STATES),
  zone: text,
  plan: text,
  site: text,
  mark: markSchema,
  tags: texts,
  arcs: listOf(arcSchema),
  hosts: whole,
  people: whole,
  peopleIn: whole,
  seats: whole,
  seatsFree: whole,
  soFar: moneySchema,
  forecast: moneySchema,
  attention: listOf(attentionSchema),
});
export type CustomerSummary = Of<typeof summarySchema>;

export const watchSchema = shape({
  customers: listOf(summarySchema),
  runs: listOf(runSchema),
  /** The last runs that are done, newest first. */
  lately: listOf(runSchema),
  /** Codes of the customers that you have changed something for in the last thirty days. */
  mine: listOf(text),
  /** What concerns no one customer. */
  attention: listOf(attentionSchema),
});
export type Watch = Of<typeof watchSchema>;

export const foundSchema = shape({
  kind: oneOf(['customer', 'environment', 'host', 'person']),
  name: text,
  says: text,
  customer: text,
  /** Where it is shown. */
  href: text,
});
export type Found = Of<typeof foundSchema>;

const area = 'Watch';

export const watchEndpoints = {
  watch: endpoint({
    method: 'GET',
    path: '/watch',
    area,
    summary: 'Every customer in your reach at a glance, and the runs that are not done',
    answer: watchSchema,
  }),
  summary: endpoint({
    method: 'GET',
    path: '/customers/{customer}/summary',
    area,
    summary: 'The customer at a glance',
    params: customerParams,
    answer: summarySchema,
  }),
  search: endpoint({
    method: 'GET',
    path: '/search',
    area,
    summary: 'Customers, environments, hosts and people that match a text',
    query: shape({ text: Joi.string().allow('').max(80).required() }),
    answer: shape({ found: listOf(foundSchema) }),
  }),
};

/** Live hints: the same stream for all that one reaches, and for one customer. */
export const liveEndpoints = {
  events: endpoint({
    method: 'GET',
    path: '/events',
    area: 'Live',
    summary: 'What changes among the customers in your reach, as server-sent events',
    responseType: 'text/event-stream',
  }),
  eventsInside: endpoint({
    method: 'GET',
    path: '/customers/{customer}/events',
    area: 'Live',
    summary: 'What changes with this customer, as server-sent events',
    params: customerParams,
    own: true,
    responseType: 'text/event-stream',
  }),
};
