import Joi from 'joi';
import { policyWish, type Change, type PolicyWish } from '../../../core/planning';
import { beginChange, proposeChange, type Begun } from '../../changes';
import type { Catalogue } from '../../catalogue';
import { created, customerRoute, ok, type Route } from '../route';
import {
  attributesShape,
  checkShape,
  customerParams,
  environmentParams,
  impactShape,
  listOf,
  maybeText,
  moneyShape,
  oneOf,
  policyShape,
  purposes,
  reason,
  shape,
  text,
  whole,
} from '../shapes';

export const proposalShape = shape({
  kind: text,
  title: text,
  refused: Joi.object().pattern(Joi.string(), Joi.string()).allow(null).required(),
  tasks: listOf(
    shape({
      key: text,
      kind: text,
      name: text,
      do: oneOf(...purposes),
      says: listOf(Joi.string()),
      attributes: attributesShape,
      people: whole,
    }),
  ),
  steps: listOf(
    shape({
      key: text,
      kind: text,
      action: text,
      subject: text,
      needs: listOf(Joi.string()),
      seconds: Joi.number().required(),
    }),
  ),
  policy: policyShape,
  seconds: Joi.number().required(),
  critical: listOf(Joi.string()),
  cost: listOf(
    shape({
      meter: text,
      size: maybeText,
      quantity: Joi.number().required(),
      unit: text,
      price: text,
      amount: moneyShape,
    }),
  ),
  monthly: moneyShape,
  checks: listOf(checkShape),
  impact: impactShape,
  room: whole,
});

interface Proposed {
  readonly input: unknown;
  readonly policy?: PolicyWish;
}

interface Begin extends Proposed {
  readonly fingerprint: string;
  readonly reason: string;
  readonly code?: string;
}

/** Two routes for each change of the catalogue: what it would do, and begin it. */
export const changeRoutes = ({ changes }: Catalogue): Route[] => changes.flatMap(routesOfChange);

function routesOfChange(change: Change): Route[] {
  const isNew = change.subject === 'new environment';
  const path = isNew
    ? `/customers/{customer}/changes/${change.kind}`
    : `/customers/{customer}/environments/{environment}/changes/${change.kind}`;
  const params = isNew ? customerParams : environmentParams;
  const asked = { input: change.input.required(), policy: policyWish };
  const environmentOf = (given: object): string | undefined =>
    'environment' in given && typeof given.environment === 'string' ? given.environment : undefined;
  return [
    customerRoute({
      method: 'POST',
      path: `${path}/proposal`,
      area: 'Changes',
      summary: `${change.verb}: what it would do, cost and take, with every check; changes nothing`,
      params,
      body: Joi.object<Proposed>(asked),
      answer: shape({ proposal: proposalShape, fingerprint: text }),
      handle: async ({ app, params: given, body }, scope) =>
        ok(
          await proposeChange(app, scope, change, {
            input: body.input,
            policy: body.policy,
            environment: environmentOf(given),
          }),
        ),
    }),
    customerRoute<object, unknown, Begin, Begun>({
      method: 'POST',
      path,
      area: 'Changes',
      summary: `${change.verb}: begins it as proposed; send back the fingerprint of the proposal that you agree to`,
      params: params as Joi.ObjectSchema<object>,
      body: Joi.object<Begin>({
        ...asked,
        fingerprint: Joi.string().max(40).required(),
        reason,
        ...(change.confirm === 'type the code'
          ? {
              code: Joi.string()
                .allow('')
                .max(16)
                .required()
                .description("The customer's code, as typed by whoever does it"),
            }
          : {}),
      }),
      roles: change.roles,
      status: 201,
      answer: shape({ run: text, environment: text }),
      work: ({ app, params: given, body }, scope) =>
        beginChange(app, scope, change, { ...body, environment: environmentOf(given) }),
      reply: (made, _ask, scope) =>
        created(made, `/api/v1/customers/${scope.customer.code}/runs/${made.run}`),
    }),
  ];
}
