import Joi from 'joi';
import { differencesOf, getEnvironment, listEnvironments, listHosts, proofOf } from '../../environments';
import { customerRoute, ok, paged, type Route } from '../route';
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
  moneyShape,
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
  key: text,
  environmentId: text,
  pool: text,
  name: text,
  address: text,
  node: maybeText,
  size: text,
  diskGiB: whole,
  status: oneOf('serving', 'off', 'draining', 'building', 'missing', 'unwell', 'leaving'),
  drift: listOf(Joi.string()),
  wantedPower: oneOf('on', 'off'),
  wantedAccepting: flag,
  present: maybeText,
  ref: maybeText,
  sessions: whole,
  seats: whole,
  version: whole,
});

export const environmentRoutes: readonly Route[] = [
  customerRoute({
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
  customerRoute({
    method: 'GET',
    path: '/customers/{customer}/environments/{environment}',
    area: 'Environments',
    summary: 'One environment: wanted against present',
    params: environmentParams,
    answer: shape({
      ...environmentKeys,
      pools: listOf(
        shape({
          role: text,
          image: text,
          size: text,
          seats: whole,
          arrival: oneOf('spread', 'fill'),
          diskGiB: whole,
          shareGiB: whole,
          people: whole,
          ceiling: whole,
          hosts: whole,
          subnet: text,
          items: listOf(shape({ name: text, kind: oneOf('desktop', 'app') })),
        }),
      ),
      network: text,
      peopleIn: whole,
      seatsOpen: whole,
      drift: whole,
    }),
    handle: async ({ app, params }, scope) => {
      const environment = await getEnvironment(app, scope, params.environment);
      return ok(environment, { etag: `"${environment.version}"` });
    },
  }),
  customerRoute({
    method: 'GET',
    path: '/customers/{customer}/environments/{environment}/hosts',
    area: 'Environments',
    summary: 'Its hosts by name: what is wanted of each, and what the provider says',
    params: environmentParams,
    query: listQuery,
    answer: pageShape(hostShape),
    handle: async ({ app, params, query }, scope) => {
      await getEnvironment(app, scope, params.environment);
      return ok(
        await paged(
          query.limit,
          (limit) => listHosts(app.db, scope, params.environment, { ...query, limit }),
          (one) => one.name,
        ),
      );
    },
  }),
  customerRoute({
    method: 'GET',
    path: '/customers/{customer}/environments/{environment}/differences',
    area: 'Environments',
    summary: 'What is otherwise than wanted, resource by resource; `mend` takes them',
    params: environmentParams,
    answer: shape({
      differences: listOf(
        shape({
          key: text,
          kind: text,
          name: text,
          attribute: maybeText,
          what: oneOf('missing', 'extra', 'otherwise'),
          says: text,
          disturbs: flag,
          takeable: flag,
        }),
      ),
    }),
    handle: async ({ app, params }, scope) =>
      ok({ differences: await differencesOf(app, scope, params.environment) }),
  }),
  customerRoute({
    method: 'GET',
    path: '/customers/{customer}/environments/{environment}/proof',
    area: 'Environments',
    summary: 'What the provider and the directory say now of everything that was ever made for it',
    params: environmentParams,
    answer: shape({
      environment: text,
      askedAt: whole,
      clean: flag,
      rows: listOf(
        shape({
          kind: text,
          name: text,
          ref: text,
          says: oneOf('gone', 'still there', 'unknown to the provider', 'could not be asked'),
          goneAt: maybeWhole,
          lastCharge: moneyShape,
          metering: flag,
        }),
      ),
      month: text,
      lastCharges: moneyShape,
      returned: shape({
        names: listOf(Joi.string()),
        stillInDirectory: listOf(Joi.string()),
        directory: shape({ worked: flag, says: text }),
        subnets: listOf(Joi.string()),
        subnetsReturned: flag,
        network: text,
        networkReturned: flag,
      }),
    }),
    handle: async ({ app, params }, scope) => ok(await proofOf(app, scope, params.environment)),
  }),
];
