import Joi from 'joi';

/** Shapes that several routes share. */

export const text = Joi.string().allow('').required();
export const maybeText = Joi.string().allow(null, '').required();
export const whole = Joi.number().integer().required();
export const maybeWhole = Joi.number().integer().allow(null).required();
export const flag = Joi.boolean().required();
export const oneOf = (...values: string[]): Joi.StringSchema =>
  Joi.string()
    .valid(...values)
    .required();
export const listOf = (entry: Joi.Schema): Joi.ArraySchema => Joi.array().items(entry.optional()).required();
export const shape = (keys: Record<string, Joi.Schema>): Joi.ObjectSchema => Joi.object(keys).required();
export const pageShape = (entry: Joi.Schema): Joi.ObjectSchema =>
  Joi.object({ entries: listOf(entry), next: maybeText });

/** Amounts are whole minor units with their currency beside them. */
export const moneyShape = shape({ minor: whole, currency: text });
export const markShape = shape({ code: text, hue: whole, shape: whole, pattern: whole });
export const arcShape = shape({
  status: oneOf('serving', 'off', 'draining', 'building', 'missing', 'unwell', 'leaving'),
  hosts: whole,
  fill: Joi.number().min(0).max(1).required(),
});
export const impactShape = shape({
  people: whole,
  hosts: whole,
  monthly: moneyShape,
  seconds: Joi.number().required(),
  undo: text,
});
export const attentionShape = shape({ kind: oneOf('drift', 'money', 'run', 'provider'), says: text });

export interface CustomerParams {
  readonly customer: string;
}
export interface EnvironmentParams extends CustomerParams {
  readonly environment: string;
}
export interface RunParams extends CustomerParams {
  readonly run: string;
}

const code = Joi.string()
  .pattern(/^[A-Z0-9]{2,16}$/)
  .required()
  .description("The customer's code");
const id = Joi.string().max(40).required();

export const customerParams = Joi.object<CustomerParams>({ customer: code });
export const environmentParams = Joi.object<EnvironmentParams>({ customer: code, environment: id });
export const runParams = Joi.object<RunParams>({ customer: code, run: id });

export interface ListQuery {
  readonly after?: string;
  readonly find?: string;
  readonly limit: number;
}

/** A list's page: `after` is the `next` of the page before. */
export const listQuery = Joi.object<ListQuery>({
  after: Joi.string().max(80).description('The `next` of the page before'),
  find: Joi.string().max(80).allow('').description('Only what contains this text'),
  limit: Joi.number().integer().min(1).max(1000).default(100),
});

/** Why something is done, for the trail. */
export const reason = Joi.string().trim().allow('').max(250).default('');

/** What a change that takes a while answers: the run that does it. */
export const runStarted = shape({ run: text });

const attribute = Joi.alternatives(
  Joi.string().allow('', null),
  Joi.number(),
  Joi.boolean(),
  Joi.array().items(Joi.string()),
);

/** What a resource is made of: plain data by name, as its kind has them. */
export const attributesShape = Joi.object().pattern(Joi.string(), attribute).required();

export const checkShape = shape({
  key: text,
  title: text,
  state: oneOf('passes', 'warns', 'blocks'),
  says: text,
  do: Joi.string().allow(''),
});

export const policyShape = shape({
  atATime: whole,
  failureLimit: whole,
  waves: Joi.number().integer(),
  drain: Joi.object({ minutes: whole, message: text }),
});

export const purposes = ['make', 'change', 'replace', 'remove'] as const;
