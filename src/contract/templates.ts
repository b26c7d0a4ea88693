import Joi from 'joi';
import { IMAGE_TRACKS, ITEM_KINDS } from '../core/intent';
import { ARRIVAL_RULES } from '../core/placement';
import { PROFILE_KEYS } from '../core/sizing';
import type { PoolSpec, TemplateSpec } from '../core/templates';
import { listQuery, ownName, pageOf } from './common';
import { endpoint } from './endpoint';
import { filled, listOf, oneOf, optional, shape, text, whole, type Of } from './shape';

const count = (most: number): Joi.NumberSchema => Joi.number().integer().min(1).max(most).required();
const partAboveNone = Joi.number().greater(0).max(1).required();
const item = shape({ name: Joi.string().max(80).required(), kind: oneOf(ITEM_KINDS) });

export const poolSpecSchema: Joi.ObjectSchema<PoolSpec> = shape({
  role: Joi.string().max(24).required(),
  image: Joi.string().max(80).required(),
  track: optional(oneOf(IMAGE_TRACKS)),
  arrival: oneOf(ARRIVAL_RULES),
  profile: oneOf(PROFILE_KEYS),
  partOfPeople: partAboveNone,
  concurrency: partAboveNone,
  mostSeats: count(200),
  diskGiB: count(16_384),
  shareGiBPerPerson: count(1024),
  ceilingFactor: Joi.number().min(1).max(20).required(),
  items: Joi.array<Of<typeof item>[]>().items(item.optional()).min(1).required(),
});

export const templateSpecSchema: Joi.ObjectSchema<TemplateSpec> = shape({
  naming: Joi.string().max(80).required(),
  pools: Joi.array<PoolSpec[]>().items(poolSpecSchema.optional()).min(1).max(20).required(),
  atATime: count(50),
  failureLimit: count(1000),
});

export const templateSchema = shape({
  code: text,
  name: text,
  says: text,
  /** Its newest revision. */
  revision: whole,
  note: text,
  spec: templateSpecSchema,
});
export type Template = Of<typeof templateSchema>;

/** An environment that came from a template. */
export const templateUseSchema = shape({ id: text, customer: text, name: text, revision: whole });
export type TemplateUse = Of<typeof templateUseSchema>;

export const newRevisionSchema = shape({
  name: ownName,
  says: filled(Joi.string().trim().allow('').max(255), ''),
  note: Joi.string().trim().max(255).required(),
  spec: templateSpecSchema,
});
export type NewRevision = Of<typeof newRevisionSchema>;

const templateParams = shape({
  template: Joi.string()
    .pattern(/^[a-z][a-z0-9-]{0,31}$/)
    .required(),
});

const area = 'Build';

export const templateEndpoints = {
  list: endpoint({
    method: 'GET',
    path: '/templates',
    area,
    summary: 'The templates, each with its newest revision',
    answer: shape({ templates: listOf(templateSchema) }),
  }),
  addRevision: endpoint({
    method: 'POST',
    path: '/templates/{template}/revisions',
    area,
    summary: "Keep a template's next revision; the first makes the template",
    params: templateParams,
    roles: ['engineer', 'lead'],
    body: newRevisionSchema,
    status: 201,
    answer: shape({ revision: whole }),
  }),
  uses: endpoint({
    method: 'GET',
    path: '/templates/{template}/environments',
    area,
    summary: 'The environments in your reach that came from a template, newest first',
    params: templateParams,
    query: listQuery,
    answer: pageOf(templateUseSchema),
  }),
};
