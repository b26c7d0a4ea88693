import Joi from 'joi';
import { INPUT_TYPES, MOST_TEMPLATE_BYTES, schemaOf, type TemplateDocument } from '../core/templates';
import { TERM_KEYS } from '../core/terms';
import { customerCode, environmentParams, fileFaultSchema, listQuery, pageOf } from './common';
import { endpoint } from './endpoint';
import {
  filled,
  flag,
  listOf,
  maybe,
  maybeText,
  maybeWhole,
  oneOf,
  optional,
  shape,
  text,
  texts,
  whole,
  type Of,
} from './shape';

const said = (schema: Joi.Schema): Joi.Schema => Joi.alternatives(schema, Joi.string().pattern(/^=/));

/** A template's revision as it is read: what is left out in its text is filled in. */
export const templateDocumentSchema = Joi.object({
  name: text,
  says: text,
  called: text,
  naming: text,
  atATime: whole,
  failureLimit: whole,
  tags: texts,
  features: listOf(text),
  inputs: listOf(
    shape({
      key: text,
      title: text,
      help: text,
      type: oneOf(INPUT_TYPES),
      short: flag,
      least: optional(whole),
      most: optional(whole),
      choices: optional(listOf(text)),
      usual: Joi.alternatives(Joi.boolean(), Joi.number(), Joi.string().allow('')).required(),
    }),
  ),
  pools: Joi.array()
    .items(
      Joi.object({
        role: text,
        when: Joi.string(),
        ...Object.fromEntries(TERM_KEYS.map((key) => [key, said(schemaOf(key)).required()])),
      }),
    )
    .required(),
}).required() as Joi.ObjectSchema<TemplateDocument>;

export const templateCode = Joi.string()
  .pattern(/^[a-z][a-z0-9-]{0,31}$/)
  .required()
  .messages({ 'string.pattern.base': 'small letters, digits and hyphens, a letter first, 32 at most' });

const template = {
  code: text,
  name: text,
  says: text,
  /** The code of the customer whose own it is; empty: it is for everyone. */
  owner: text,
  /** Its newest published revision; 0: none yet. */
  revision: whole,
  note: text,
  /** Of its newest published revision; null: there is none. */
  document: maybe(templateDocumentSchema),
  hasDraft: flag,
};

export const templateRowSchema = shape(template);
export type Template = Of<typeof templateRowSchema>;

export const revisionSchema = shape({ revision: whole, note: text, by: text, at: whole });
export type Revision = Of<typeof revisionSchema>;

export const wholeTemplateSchema = shape({
  ...template,
  /** YAML, of its newest published revision; empty: there is none. */
  text,
  /** Null: there is none. */
  draft: maybe(shape({ text, by: text, at: whole })),
  /** Grows each time a draft is kept, published or given up; 0: there never was one. */
  draftVersion: whole,
  /** The newest first. */
  revisions: listOf(revisionSchema),
});
export type WholeTemplate = Of<typeof wholeTemplateSchema>;

/** An environment that came from a template. */
export const templateUseSchema = shape({
  id: text,
  customer: text,
  name: text,
  revision: whole,
  /** Things of it that are otherwise than the template gave them. */
  deviations: whole,
});
export type TemplateUse = Of<typeof templateUseSchema>;

const document = Joi.string()
  .max(MOST_TEMPLATE_BYTES)
  .required()
  .description('YAML; see /templates.schema.json');
const owner = filled(Joi.alternatives(customerCode, Joi.string().valid('')), '');

export const templateDraftSchema = shape({
  text: Joi.string().allow('').max(MOST_TEMPLATE_BYTES).required(),
  owner,
  /** The `draftVersion` that it was begun from; 0: there never was one. */
  before: whole,
});
export type TemplateDraft = Of<typeof templateDraftSchema>;

export const newRevisionSchema = shape({
  text: document,
  owner,
  note: Joi.string().trim().max(255).required().messages({ 'string.empty': 'say what is new' }),
});
export type NewRevision = Of<typeof newRevisionSchema>;

export const deviationSchema = shape({ key: text, pool: text, what: text, given: text, is: text });

/** What of an environment is otherwise than its template gave it, and what a newer revision gives otherwise. */
export const originSchema = shape({
  /** Null: it came from none. */
  template: maybeText,
  name: text,
  revision: whole,
  newest: maybeWhole,
  inputs: listOf(shape({ key: text, title: text, value: text })),
  deviations: listOf(deviationSchema),
  /** What the newest revision means otherwise than the one that it came from. */
  changes: listOf(shape({ where: text, what: text, before: text, after: text })),
});
export type OriginView = Of<typeof originSchema>;

const templateParams = shape({ template: templateCode });
const revisionParams = shape({ template: templateCode, revision: Joi.number().integer().min(1).required() });

const area = 'Build';

export const IMAGE_OUTCOMES = ['here', 'begun', 'missing'] as const;
/** What comes, or came, of a file of templates. */
export const templateFileSchema = shape({
  kept: flag,
  templates: listOf(shape({ code: text, outcome: oneOf(['new', 'newer', 'same']), revision: whole })),
  /** Those that the templates refer to. */
  images: listOf(shape({ code: text, outcome: oneOf(IMAGE_OUTCOMES), says: text })),
  /** The run in which images are begun; null: none are. */
  run: maybeText,
  faults: listOf(fileFaultSchema),
});
export type TemplateFile = Of<typeof templateFileSchema>;

export const templateEndpoints = {
  list: endpoint({
    method: 'GET',
    path: '/templates',
    area,
    summary: 'The templates for everyone and of customers in your reach, each with its newest revision',
    answer: shape({ templates: listOf(templateRowSchema) }),
  }),
  read: endpoint({
    method: 'GET',
    path: '/templates/{template}',
    area,
    summary: 'A template: its text, its draft, its revisions',
    params: templateParams,
    answer: wholeTemplateSchema,
  }),
  revision: endpoint({
    method: 'GET',
    path: '/templates/{template}/revisions/{revision}',
    area,
    summary: 'One revision as it was published',
    params: revisionParams,
    answer: shape({ revision: whole, note: text, by: text, at: whole, text }),
  }),
  keepDraft: endpoint({
    method: 'PUT',
    path: '/templates/{template}/draft',
    area,
    summary: 'Keep what is to become the next revision, whole or not; the first makes the template',
    params: templateParams,
    right: 'build',
    body: templateDraftSchema,
    answer: shape({ version: whole, faults: listOf(fileFaultSchema) }),
  }),
  dropDraft: endpoint({
    method: 'DELETE',
    path: '/templates/{template}/draft',
    area,
    summary: 'Keep the draft no longer; a template without a revision goes with it',
    params: templateParams,
    right: 'build',
    status: 204,
  }),
  addRevision: endpoint({
    method: 'POST',
    path: '/templates/{template}/revisions',
    area,
    summary: "Publish a template's next revision; the first makes the template",
    params: templateParams,
    right: 'build',
    body: newRevisionSchema,
    status: 201,
    answer: shape({ revision: whole }),
  }),
  schema: endpoint({
    method: 'GET',
    path: '/templates.schema.json',
    area,
    summary: 'The JSON Schema (2020-12) of a template',
    responseType: 'application/schema+json',
  }),
  file: endpoint({
    method: 'GET',
    path: '/templates/{template}/file',
    area,
    summary: 'A template with the images that it refers to, as a YAML file',
    params: templateParams,
    responseType: 'application/yaml',
  }),
  importFile: endpoint({
    method: 'POST',
    path: '/templates/file',
    area,
    summary:
      'Take templates in from a YAML file, as their next revisions: all of them or none; and begin the images that are not here',
    right: 'build',
    query: shape({
      keep: filled(oneOf(['check', 'all']), 'check'),
      /** Where images that are not here are begun; empty: they are not. */
      site: filled(Joi.string().allow('').max(16), ''),
    }).optional(),
    requestType: 'application/yaml',
    mostBytes: 2_000_000,
    body: Joi.string().allow('').required(),
    answer: templateFileSchema,
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
  origin: endpoint({
    method: 'GET',
    path: '/customers/{customer}/environments/{environment}/template',
    area: 'Environments',
    summary: 'Where an environment came from, and what of it is otherwise than its template says',
    params: environmentParams,
    answer: originSchema,
  }),
};
