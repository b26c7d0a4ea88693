import Joi from 'joi';
import { SITE_KINDS } from '../core/facts';
import { ownCode, ownName, saysSchema } from './common';
import { endpoint, question } from './endpoint';
import { TRIES, TRY_OUTCOMES } from './tries';
import { filled, listOf, maybe, maybeWhole, oneOf, shape, text, whole, type Of } from './shape';

export const providerSchema = shape({
  code: text,
  name: text,
  url: text,
  account: text,
  signIn: saysSchema,
  /** Wall time of its last good answer; null: none yet. */
  answeredAt: maybeWhole,
  /** When its secret holds no more; null: nobody said. */
  secretEndsAt: maybeWhole,
});
export type Provider = Of<typeof providerSchema>;

/** An address is shown; what lets us in is not, and stands in fields of its own. */
function withoutCredentials(url: string, helpers: Joi.CustomHelpers): string | Joi.ErrorReport {
  const { username, password } = new URL(url);
  return username === '' && password === ''
    ? url
    : helpers.message({ custom: 'account and secret have fields of their own' });
}

const credentials = {
  url: Joi.string()
    .uri({ scheme: ['http', 'https'] })
    .max(255)
    .custom(withoutCredentials)
    .required(),
  account: Joi.string().max(80).required(),
  secret: Joi.string().max(200).required(),
};
const secretEndsAt = filled(
  maybe(whole).description('When the secret holds no more: it is told on Watch from thirty days before'),
  null,
);
export const connectionSchema = shape({ name: ownName, ...credentials, secretEndsAt });
export type Connection = Of<typeof connectionSchema>;

/** The form of a connection: its code, which none of those that are taken may be. */
export const connectionFormSchema = (taken: readonly string[]) =>
  shape({
    code: ownCode
      .invalid(...taken)
      .messages({ 'any.invalid': 'a provider of this code is connected already' }),
    name: ownName,
    ...credentials,
    secretEndsAt,
  });

/**
 * A connection that is tried, as far as it is written: without account or secret only its address is. `making`: whether
 * something small shall be made, which takes as long as its provider takes.
 */
export const triedSchema = shape({
  /** The provider's code, as far as it has one: whose sites its sites may be already. */
  code: Joi.string().allow('').max(16).required(),
  url: credentials.url,
  account: Joi.string().allow('').max(80).required(),
  secret: Joi.string().allow('').max(200).required(),
  making: Joi.boolean().required(),
});
export type Tried = Of<typeof triedSchema>;

export const trySchema = shape({
  what: oneOf(TRIES),
  /** What was asked: `GET /v1/sites`. */
  asked: text,
  outcome: oneOf(TRY_OUTCOMES),
  /** What was answered. */
  says: text,
  /** What to do about it; empty when there is nothing to do. */
  fix: text,
  at: whole,
  tookMs: whole,
});
export type Try = Of<typeof trySchema>;

/** A site that comes with a connection. */
export const foundSiteSchema = shape({
  code: text,
  name: text,
  kind: oneOf(SITE_KINDS),
  zones: whole,
  nodes: whole,
  /** Of all nodes, or of the quota. */
  vcpu: whole,
  /** Of all nodes; a quota tells none. */
  memoryGiB: maybeWhole,
  images: listOf(text),
  sizes: whole,
});
export type FoundSite = Of<typeof foundSiteSchema>;

const area = 'Ground';

export const providerEndpoints = {
  list: endpoint({
    method: 'GET',
    path: '/providers',
    area,
    summary: 'The providers that are connected; secrets are never shown',
    answer: shape({ providers: listOf(providerSchema) }),
  }),
  try: question({
    path: '/providers/tries',
    area,
    everyone: true,
    summary:
      'Try a connection for real, without keeping it: reach it, sign in, read its sites and prices, make and remove something small',
    right: 'decide',
    body: triedSchema,
    answer: shape({ tries: listOf(trySchema), sites: listOf(foundSiteSchema) }),
  }),
  connect: endpoint({
    method: 'PUT',
    path: '/providers/{provider}',
    area,
    everyone: true,
    summary:
      'Connect a provider or mend its connection: its credentials are tried for real, and its sites are read',
    params: shape({ provider: ownCode }),
    right: 'decide',
    body: connectionSchema,
    answer: providerSchema,
  }),
};
