import Joi from 'joi';
import { search } from '../../search';
import { summaryOf, watch } from '../../watch';
import { eventStream } from '../events';
import { customerRoute, ok, operatorRoute, type Route } from '../route';
import { runKeys } from './runs';
import {
  arcShape,
  attentionShape,
  customerParams,
  listOf,
  markShape,
  moneyShape,
  oneOf,
  shape,
  text,
  whole,
} from '../shapes';

const summaryShape = shape({
  code: text,
  name: text,
  state: text,
  mark: markShape,
  arcs: listOf(arcShape),
  hosts: whole,
  peopleIn: whole,
  seats: whole,
  seatsFree: whole,
  soFar: moneyShape,
  forecast: moneyShape,
  attention: listOf(attentionShape),
});

export const watchRoutes: readonly Route[] = [
  operatorRoute({
    method: 'GET',
    path: '/watch',
    area: 'Watch',
    summary: 'Every customer in your reach at a glance, and the runs that are not done',
    answer: shape({
      customers: listOf(summaryShape),
      runs: listOf(shape(runKeys)),
      lately: listOf(shape(runKeys)),
      attention: listOf(attentionShape),
    }),
    handle: async ({ app }, scope) => ok(await watch(app.db, scope)),
  }),
  customerRoute({
    method: 'GET',
    path: '/customers/{customer}/summary',
    area: 'Watch',
    summary: 'The customer at a glance',
    params: customerParams,
    answer: summaryShape,
    handle: async ({ app }, scope) => ok(await summaryOf(app.db, scope)),
  }),
  operatorRoute({
    method: 'GET',
    path: '/search',
    area: 'Watch',
    summary: 'Customers, environments, hosts and people that match a text',
    query: Joi.object<{ text: string }>({ text: Joi.string().allow('').max(80).required() }),
    answer: shape({
      found: listOf(
        shape({
          kind: oneOf('customer', 'environment', 'host', 'person'),
          name: text,
          says: text,
          customer: text,
          href: text,
        }),
      ),
    }),
    handle: async ({ app, query }, scope) => ok({ found: await search(app.db, scope, query.text) }),
  }),
  operatorRoute({
    method: 'GET',
    path: '/events',
    area: 'Live',
    summary: 'What changes among the customers in your reach, as server-sent events',
    responseType: 'text/event-stream',
    handle: async ({ app, request }, scope) => eventStream(app, request, scope, undefined),
  }),
  customerRoute({
    method: 'GET',
    path: '/customers/{customer}/events',
    area: 'Live',
    summary: 'What changes with this customer, as server-sent events',
    params: customerParams,
    responseType: 'text/event-stream',
    handle: async ({ app, request }, scope, outer) => eventStream(app, request, outer, scope.customer),
  }),
];
