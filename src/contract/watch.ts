import Joi from 'joi';
import { ATTENTION_KINDS } from '../core/looks';
import { HARMS } from '../core/signs';
import { arcSchema, customerParams, markSchema, moneySchema } from './common';
import { CUSTOMER_STATES } from './customers';
import { endpoint } from './endpoint';
import { runSchema } from './runs';
import {
  filled,
  listOf,
  maybe,
  maybeText,
  maybeWhole,
  oneOf,
  shape,
  text,
  texts,
  whole,
  type Of,
} from './shape';

/** Something that someone should look at. */
export const attentionSchema = shape({
  kind: oneOf(ATTENTION_KINDS),
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

/** Nothing is put off for longer than a week. */
const MOST_HOURS = 168;

export const LOOK_STATES = ['taken', 'put off'] as const;

/** What somebody has said of a look: that they are on it, or that it can wait. */
export const lookMarkSchema = shape({
  state: oneOf(LOOK_STATES),
  by: text,
  at: whole,
  until: whole,
  reason: text,
});
export type LookMark = Of<typeof lookMarkSchema>;

/** A line of what needs a look: its cause, whom it hits, and where it is mended. */
export const lookSchema = shape({
  /** The same as long as it is the same trouble. */
  key: text,
  says: text,
  /** People who are hit by it now. */
  people: whole,
  harm: maybe(oneOf(HARMS)),
  /** Null: nobody has noted when it began. */
  since: maybeWhole,
  /** Whose it is; null: no one customer's. */
  customer: maybeText,
  /** Codes of those whom it concerns, of those in reach. */
  customers: listOf(text),
  href: text,
  /** What helps, in one line; empty: that is plain. */
  helps: text,
  mark: maybe(lookMarkSchema),
});
export type Look = Of<typeof lookSchema>;

export const watchSchema = shape({
  /** What needs a look, in order of whom it hits. */
  looks: listOf(lookSchema),
  customers: listOf(summarySchema),
  runs: listOf(runSchema),
  /** The last runs that are done, newest first. */
  lately: listOf(runSchema),
  /** Codes of the customers that you have changed something for in the last thirty days. */
  mine: listOf(text),
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
  mark: endpoint({
    method: 'PUT',
    path: '/watch/marks',
    area,
    summary:
      'Say of something that needs a look that you are on it, put it off for a reason, or take that back',
    right: 'run',
    body: shape({
      key: Joi.string().max(160).required(),
      /** `open`: what was said before is taken back. */
      state: oneOf([...LOOK_STATES, 'open']),
      /** How long it holds: after that it needs a look again. */
      hours: filled(Joi.number().integer().min(1).max(MOST_HOURS), 8),
      reason: filled(Joi.string().trim().allow('').max(200), ''),
    }),
    answer: lookSchema,
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
