import Joi from 'joi';
import { ownCode, ownName, saysSchema } from './common';
import { endpoint } from './endpoint';
import { listOf, maybeWhole, shape, text, type Of } from './shape';

export const providerSchema = shape({
  code: text,
  name: text,
  url: text,
  account: text,
  signIn: saysSchema,
  /** Wall time of its last good answer; null: none yet. */
  answeredAt: maybeWhole,
});
export type Provider = Of<typeof providerSchema>;

export const connectionSchema = shape({
  name: ownName,
  url: Joi.string()
    .uri({ scheme: ['http', 'https'] })
    .max(255)
    .required(),
  account: Joi.string().max(80).required(),
  secret: Joi.string().max(200).required(),
});
export type Connection = Of<typeof connectionSchema>;

const area = 'Ground';

export const providerEndpoints = {
  list: endpoint({
    method: 'GET',
    path: '/providers',
    area,
    summary: 'The providers that are connected; secrets are never shown',
    answer: shape({ providers: listOf(providerSchema) }),
  }),
  connect: endpoint({
    method: 'PUT',
    path: '/providers/{provider}',
    area,
    summary:
      'Connect a provider or mend its connection: its credentials are tried for real, and its sites are read',
    params: shape({ provider: ownCode }),
    roles: ['lead'],
    body: connectionSchema,
    answer: providerSchema,
  }),
};
