import Joi from 'joi';
import { proofOf, proposeRetirement, retire } from '../../environments';
import { created, inside, ok, type Route } from '../route';
import {
  environmentParams,
  flag,
  impactShape,
  listOf,
  maybeText,
  maybeWhole,
  moneyShape,
  oneOf,
  reason,
  runStarted,
  shape,
  stepShape,
  text,
  whole,
} from '../shapes';

export const retireRoutes: readonly Route[] = [
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
