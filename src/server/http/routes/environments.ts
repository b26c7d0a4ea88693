import Joi from 'joi';
import { changeHosts, getEnvironment, listEnvironments, listHosts } from '../../environments';
import type { PowerChange } from '../../../core/proposal';
import { created, inside, ok, paged, type Route } from '../route';
import {
  arcShape,
  customerParams,
  environmentParams,
  flag,
  listOf,
  listQuery,
  maybeText,
  maybeWhole,
  oneOf,
  pageShape,
  reason,
  runStarted,
  shape,
  text,
  whole,
} from '../shapes';

const environmentKeys = {
  id: text,
  name: text,
  site: text,
  siteName: text,
  template: text,
  revision: whole,
  state: oneOf('under way', 'unfinished', 'serving', 'leaving', 'retired'),
  people: whole,
  hosts: whole,
  createdAt: whole,
  retiredAt: maybeWhole,
  version: whole,
  arcs: listOf(arcShape),
};

const hostShape = shape({
  id: text,
  environmentId: text,
  name: text,
  address: text,
  node: maybeText,
  standing: text,
  drift: listOf(Joi.string()),
  wantedPower: oneOf('on', 'off'),
  wantedAccepting: flag,
  present: maybeText,
  ref: maybeText,
  sessions: whole,
  seats: whole,
  version: whole,
});

const hostSeen = Joi.object({
  id: Joi.string().max(40).required(),
  version: Joi.number().integer().min(0).description('As it was seen: refused when it is another by now'),
});

export const environmentRoutes: readonly Route[] = [
  inside({
    method: 'GET',
    path: '/customers/{customer}/environments',
    area: 'Environments',
    summary: "The customer's environments",
    params: customerParams,
    query: listQuery,
    answer: pageShape(shape(environmentKeys)),
    handle: async ({ app, query }, scope) =>
      ok(
        await paged(
          query.limit,
          (limit) => listEnvironments(app.db, scope, { ...query, limit }),
          (one) => one.id,
        ),
      ),
  }),
  inside({
    method: 'GET',
    path: '/customers/{customer}/environments/{environment}',
    area: 'Environments',
    summary: 'One environment: wanted against present',
    params: environmentParams,
    answer: shape({
      ...environmentKeys,
      pool: Joi.object().unknown().required(),
      network: text,
      peopleIn: whole,
      seatsOpen: whole,
      drift: whole,
    }),
    handle: async ({ app, params }, scope) => {
      const environment = await getEnvironment(app.db, scope, params.environment);
      return ok(environment, { etag: `"${environment.version}"` });
    },
  }),
  inside({
    method: 'GET',
    path: '/customers/{customer}/environments/{environment}/hosts',
    area: 'Environments',
    summary: 'Its hosts by name: what is wanted of each, and what the provider says',
    params: environmentParams,
    query: listQuery,
    answer: pageShape(hostShape),
    handle: async ({ app, params, query }, scope) => {
      await getEnvironment(app.db, scope, params.environment);
      return ok(
        await paged(
          query.limit,
          (limit) => listHosts(app.db, scope, params.environment, { ...query, limit }),
          (one) => one.name,
        ),
      );
    },
  }),
  inside({
    method: 'POST',
    path: '/customers/{customer}/environments/{environment}/changes',
    area: 'Environments',
    summary: 'Power hosts on or off, drain them or put them back; begins a run',
    params: environmentParams,
    body: Joi.object<{ hosts: { id: string; version?: number }[]; change: PowerChange; reason: string }>({
      hosts: Joi.array().items(hostSeen).min(1).max(2000).required(),
      change: Joi.string().valid('power-on', 'power-off', 'drain', 'accept').required(),
      reason,
    }),
    roles: ['engineer', 'lead'],
    good: 201,
    answer: runStarted,
    handle: async ({ app, params, body }, scope) => {
      const run = await changeHosts(app, scope, { environment: params.environment, ...body });
      return created({ run }, `/api/v1/customers/${scope.customer.code}/runs/${run}`);
    },
  }),
];
