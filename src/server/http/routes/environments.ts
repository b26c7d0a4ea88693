import Joi from 'joi';
import type { PowerChange } from '../../../core/proposal';
import type { ProfileKey } from '../../../core/sizing';
import {
  changeHosts,
  getEnvironment,
  listEnvironments,
  listHosts,
  proofOf,
  proposeHere,
  proposeRetirement,
  provision,
  retire,
} from '../../environments';
import { askDirectory, provisionGround } from '../../ground';
import { created, inside, ok, page, type Route } from '../route';
import {
  arcShape,
  customerParams,
  environmentParams,
  flag,
  impactShape,
  listOf,
  listQuery,
  maybeText,
  maybeWhole,
  moneyShape,
  oneOf,
  pageShape,
  shape,
  text,
  whole,
} from '../shapes';

interface WishBody {
  readonly environment: string;
  readonly template: string;
  readonly site: string;
  readonly people: number;
  readonly profile: ProfileKey;
  readonly size?: string;
}

const wishKeys = {
  environment: Joi.string().allow('').max(40).required().description("The new environment's name"),
  template: Joi.string().max(32).required(),
  site: Joi.string().max(16).required(),
  people: Joi.number().integer().min(0).max(5000).required(),
  profile: Joi.string().valid('light', 'standard', 'heavy', 'graphics').required(),
  size: Joi.string().max(16).description('A size chosen by hand; left out: the cheapest that keeps N+1'),
};

const reason = Joi.string().trim().allow('').max(250).default('');

const stepShape = shape({
  key: text,
  kind: text,
  subject: text,
  needs: listOf(Joi.string()),
  seconds: whole,
});

const proposalShape = shape({
  sizing: Joi.object().unknown().required(),
  chosen: Joi.object().unknown(),
  hosts: listOf(shape({ name: text, address: text, node: Joi.string(), zone: Joi.string() })),
  network: Joi.string(),
  subnet: Joi.string(),
  room: whole,
  shareGiB: Joi.number().required(),
  cost: listOf(Joi.object({ amount: moneyShape }).unknown()),
  monthly: moneyShape,
  steps: listOf(stepShape),
  seconds: Joi.number().required(),
  critical: listOf(Joi.string()),
  checks: listOf(
    shape({
      key: text,
      title: text,
      state: oneOf('passes', 'warns', 'blocks'),
      says: text,
      do: Joi.string(),
    }),
  ),
  impact: impactShape,
});

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

const runStarted = shape({ run: text });

export const environmentRoutes: readonly Route[] = [
  inside({
    method: 'GET',
    path: '/customers/{customer}/ground',
    area: 'Provision',
    summary: 'The facts that a proposal at a site is computed from',
    params: customerParams,
    query: Joi.object<{ site: string }>({ site: Joi.string().max(16).required() }),
    answer: Joi.object().unknown(),
    handle: async ({ app, query }, scope) =>
      ok(await provisionGround(app, app.db, scope, query.site, await askDirectory(app, scope))),
  }),
  inside({
    method: 'POST',
    path: '/customers/{customer}/proposals',
    area: 'Provision',
    summary: 'What provisioning would make, cost and take, with every check; changes nothing',
    params: customerParams,
    body: Joi.object<WishBody>(wishKeys),
    answer: shape({ proposal: proposalShape, stamp: text }),
    handle: async ({ app, body }, scope) => ok(await proposeHere(app, scope, body)),
  }),
  inside({
    method: 'POST',
    path: '/customers/{customer}/environments',
    area: 'Provision',
    summary: 'Provision an environment as proposed: send back the stamp of the proposal that you agree to',
    params: customerParams,
    body: Joi.object<WishBody & { stamp: string; reason: string }>({
      ...wishKeys,
      stamp: Joi.string().max(40).required(),
      reason,
    }),
    roles: ['engineer', 'lead'],
    good: 201,
    answer: shape({ run: text, environment: text }),
    handle: async ({ app, body }, scope) => {
      const made = await provision(app, scope, body);
      return created(made, `/api/v1/customers/${scope.customer.code}/runs/${made.run}`);
    },
  }),
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
        page(
          await listEnvironments(app.db, scope, { ...query, limit: query.limit + 1 }),
          query.limit,
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
      const hosts = await listHosts(app.db, scope, params.environment, { ...query, limit: query.limit + 1 });
      return ok(page(hosts, query.limit, (one) => one.name));
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
  inside({
    method: 'GET',
    path: '/customers/{customer}/environments/{environment}/retirement',
    area: 'Retire',
    summary: 'What retiring it would do; changes nothing',
    params: environmentParams,
    answer: shape({
      environment: text,
      steps: listOf(stepShape),
      seconds: Joi.number().required(),
      hosts: listOf(Joi.string()),
      peopleIn: whole,
      peopleWarned: whole,
      givenBack: shape({ names: whole, subnet: text, network: maybeText }),
      saved: moneyShape,
      impact: impactShape,
      version: whole,
    }),
    handle: async ({ app, params }, scope) => ok(await proposeRetirement(app, scope, params.environment)),
  }),
  inside({
    method: 'POST',
    path: '/customers/{customer}/environments/{environment}/retirement',
    area: 'Retire',
    summary: "Retire it: the customer's code has to be sent as typed by whoever does it",
    params: environmentParams,
    body: Joi.object<{ code: string; reason: string }>({
      code: Joi.string().allow('').max(16).required(),
      reason,
    }),
    roles: ['engineer', 'lead'],
    good: 201,
    answer: runStarted,
    handle: async ({ app, params, body, version }, scope) => {
      const run = await retire(app, scope, params.environment, { ...body, version });
      return created({ run }, `/api/v1/customers/${scope.customer.code}/runs/${run}`);
    },
  }),
  inside({
    method: 'GET',
    path: '/customers/{customer}/environments/{environment}/proof',
    area: 'Retire',
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
      returned: Joi.object().unknown().required(),
    }),
    handle: async ({ app, params }, scope) => ok(await proofOf(app, scope, params.environment)),
  }),
];
