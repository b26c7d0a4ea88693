import Joi from 'joi';
import { customerCode, customerParams } from './common';
import { endpoint } from './endpoint';
import { listOf, shape, text, whole, type Of } from './shape';

export const recipeSecretSchema = shape({ name: text, by: text, at: whole });
export type RecipeSecret = Of<typeof recipeSecretSchema>;

const secretParams = shape({
  customer: customerCode,
  secret: Joi.string()
    .pattern(/^[a-z][a-z0-9-]{0,31}$/)
    .required()
    .messages({ 'string.pattern.base': 'small letters, digits and hyphens, a letter first, 32 at most' }),
});

export const keptSecretSchema = shape({ secret: Joi.string().min(1).max(4_000).required() });

const area = 'Images';

export const recipeSecretEndpoints = {
  list: endpoint({
    method: 'GET',
    path: '/customers/{customer}/recipe-secrets',
    area,
    summary: 'Names of the secrets that recipes may refer to; no secret is ever told again',
    params: customerParams,
    own: true,
    answer: shape({ secrets: listOf(recipeSecretSchema) }),
  }),
  keep: endpoint({
    method: 'PUT',
    path: '/customers/{customer}/recipe-secrets/{secret}',
    area,
    summary: 'Keep a secret that recipes refer to as {secret:NAME}; one of the same name is replaced',
    params: secretParams,
    own: true,
    right: 'build',
    body: keptSecretSchema,
    status: 204,
  }),
  drop: endpoint({
    method: 'DELETE',
    path: '/customers/{customer}/recipe-secrets/{secret}',
    area,
    summary: 'Keep a secret no longer: what refers to it is not built',
    params: secretParams,
    own: true,
    right: 'build',
    status: 204,
  }),
};
