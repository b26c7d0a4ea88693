import Joi from 'joi';
import { proposeHere, provision } from '../../environments';
import { askDirectory, provisionGround } from '../../ground';
import type { ProfileKey } from '../../../core/sizing';
import { created, inside, ok, type Route } from '../route';
import {
  customerParams,
  impactShape,
  listOf,
  moneyShape,
  oneOf,
  reason,
  shape,
  stepShape,
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

export const provisionRoutes: readonly Route[] = [
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
];
