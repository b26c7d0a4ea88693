import Joi from 'joi';
import { addressSpace, listSites, listTemplates, newestRevision, usesOfTemplate } from '../../ground';
import { search } from '../../search';
import { countSessions, listSessions, sessionCursor } from '../../serve';
import { listTrail } from '../../trail';
import { tallyOf, watch } from '../../watch';
import { eventStream } from '../events';
import { inside, ok, page, within, type Route } from '../route';
import {
  arcShape,
  attentionShape,
  customerParams,
  listOf,
  listQuery,
  markShape,
  maybeText,
  moneyShape,
  oneOf,
  pageShape,
  shape,
  text,
  whole,
} from '../shapes';

const trailShape = shape({
  id: text,
  at: whole,
  customer: maybeText,
  actor: text,
  action: text,
  subject: text,
  run: maybeText,
  before: Joi.any(),
  after: Joi.any(),
  reason: text,
});

const tallyShape = shape({
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

const sessionShape = shape({
  id: text,
  customer: text,
  account: text,
  person: maybeText,
  host: text,
  environment: maybeText,
  environmentId: maybeText,
  state: oneOf('active', 'idle'),
  since: whole,
});

export const watchingRoutes: readonly Route[] = [
  within({
    method: 'GET',
    path: '/watch',
    area: 'Watch',
    summary: 'Every customer in your reach at a glance, and the runs that are not done',
    answer: shape({
      customers: listOf(tallyShape),
      runs: listOf(Joi.object().unknown()),
      lately: listOf(Joi.object().unknown()),
      attention: listOf(attentionShape),
    }),
    handle: async ({ app }, scope) => ok(await watch(app.db, scope)),
  }),
  inside({
    method: 'GET',
    path: '/customers/{customer}/tally',
    area: 'Watch',
    summary: 'The customer at a glance',
    params: customerParams,
    answer: tallyShape,
    handle: async ({ app }, scope) => ok(await tallyOf(app.db, scope)),
  }),
  within({
    method: 'GET',
    path: '/sites',
    area: 'Ground',
    summary: 'The sites with their nodes, sizes and quotas, and how full they are',
    answer: shape({ sites: listOf(Joi.object().unknown()) }),
    handle: async ({ app }, scope) => ok({ sites: await listSites(app.db, scope) }),
  }),
  within({
    method: 'GET',
    path: '/addresses',
    area: 'Ground',
    summary: 'The address ranges of the sites, the blocks given of them, and what is left',
    answer: shape({
      ranges: listOf(
        shape({
          site: text,
          cidr: text,
          given: listOf(
            shape({
              cidr: text,
              customer: maybeText,
              from: Joi.number().required(),
              part: Joi.number().required(),
            }),
          ),
          full: Joi.number().min(0).max(1).required(),
          largestFree: maybeText,
          fragmentation: Joi.number().min(0).max(1).required(),
        }),
      ),
    }),
    handle: async ({ app }, scope) => ok({ ranges: await addressSpace(app.db, scope) }),
  }),
  within({
    method: 'GET',
    path: '/templates',
    area: 'Build',
    summary: 'The templates, each with its newest revision',
    answer: shape({ templates: listOf(Joi.object().unknown()) }),
    handle: async ({ app }) => ok({ templates: await listTemplates(app.db) }),
  }),
  within({
    method: 'GET',
    path: '/templates/{template}/environments',
    area: 'Build',
    summary: 'The environments in your reach that came from a template, newest first',
    params: Joi.object<{ template: string }>({ template: Joi.string().max(32).required() }),
    query: listQuery,
    answer: pageShape(shape({ id: text, customer: text, name: text, revision: whole })),
    handle: async ({ app, params, query }, scope) => {
      await newestRevision(app.db, params.template);
      const uses = await usesOfTemplate(app.db, scope, params.template, {
        ...query,
        limit: query.limit + 1,
      });
      return ok(page(uses, query.limit, (one) => one.id));
    },
  }),
  within({
    method: 'GET',
    path: '/sessions',
    area: 'Serve',
    summary: 'Who is signed in where, among the customers in your reach',
    query: listQuery,
    answer: pageShape(sessionShape),
    handle: async ({ app, query }, scope) =>
      ok(
        page(
          await listSessions(app.db, scope, { ...query, limit: query.limit + 1 }),
          query.limit,
          sessionCursor,
        ),
      ),
  }),
  within({
    method: 'GET',
    path: '/sessions/count',
    area: 'Serve',
    summary: 'How many sessions each customer in your reach has, the most first',
    answer: shape({ customers: listOf(shape({ customer: text, active: whole, idle: whole })) }),
    handle: async ({ app }, scope) => ok({ customers: await countSessions(app.db, scope) }),
  }),
  inside({
    method: 'GET',
    path: '/customers/{customer}/sessions',
    area: 'Serve',
    summary: 'Who of the customer is signed in where',
    params: customerParams,
    query: listQuery,
    answer: pageShape(sessionShape),
    handle: async ({ app, query }, scope) =>
      ok(
        page(
          await listSessions(app.db, scope, { ...query, limit: query.limit + 1 }),
          query.limit,
          sessionCursor,
        ),
      ),
  }),
  within({
    method: 'GET',
    path: '/trail',
    area: 'Trail',
    summary: 'Who did what to which customer in your reach, newest first',
    query: listQuery,
    answer: pageShape(trailShape),
    handle: async ({ app, query }, scope) =>
      ok(
        page(
          await listTrail(app.db, scope, { before: query.after, find: query.find, limit: query.limit + 1 }),
          query.limit,
          (one) => one.id,
        ),
      ),
  }),
  inside({
    method: 'GET',
    path: '/customers/{customer}/trail',
    area: 'Trail',
    summary: 'Who did what to this customer, newest first',
    params: customerParams,
    query: listQuery,
    answer: pageShape(trailShape),
    handle: async ({ app, query }, scope) =>
      ok(
        page(
          await listTrail(app.db, scope, { before: query.after, find: query.find, limit: query.limit + 1 }),
          query.limit,
          (one) => one.id,
        ),
      ),
  }),
  within({
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
  within({
    method: 'GET',
    path: '/events',
    area: 'Live',
    summary: 'What changes among the customers in your reach, as server-sent events',
    answers: 'text/event-stream',
    handle: async ({ app, request }, scope) => eventStream(app, request, scope, undefined),
  }),
  inside({
    method: 'GET',
    path: '/customers/{customer}/events',
    area: 'Live',
    summary: 'What changes with this customer, as server-sent events',
    params: customerParams,
    answers: 'text/event-stream',
    handle: async ({ app, request }, scope, outer) => eventStream(app, request, outer, scope.customer),
  }),
];
