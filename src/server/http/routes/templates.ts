import Joi from 'joi';
import { WORK_PROFILES } from '../../../core/sizing';
import type { PoolSpec, TemplateSpec } from '../../../core/templates';
import {
  addRevision,
  listTemplates,
  newestRevision,
  usesOfTemplate,
  type NewRevision,
} from '../../templates';
import { created, ok, operatorRoute, paged, type Route } from '../route';
import { listOf, listQuery, pageShape, shape, text, whole } from '../shapes';
import { templateSpecShape } from './facts';

const templateParams = Joi.object<{ template: string }>({
  template: Joi.string()
    .pattern(/^[a-z][a-z0-9-]{0,31}$/)
    .required(),
});

const part = Joi.number().greater(0).max(1).required();

const poolInput = Joi.object<PoolSpec>({
  role: Joi.string().max(24).required(),
  image: Joi.string().max(80).required(),
  arrival: Joi.string().valid('spread', 'fill').required(),
  profile: Joi.string()
    .valid(...Object.keys(WORK_PROFILES))
    .required(),
  partOfPeople: part,
  concurrency: part,
  mostSeats: Joi.number().integer().min(1).max(200).required(),
  diskGiB: Joi.number().integer().min(1).max(16_384).required(),
  shareGiBPerPerson: Joi.number().integer().min(1).max(1024).required(),
  ceilingFactor: Joi.number().min(1).max(20).required(),
  items: Joi.array()
    .items(
      Joi.object({
        name: Joi.string().max(80).required(),
        kind: Joi.string().valid('desktop', 'app').required(),
      }),
    )
    .min(1)
    .required(),
});

const specInput = Joi.object<TemplateSpec>({
  naming: Joi.string().max(80).required(),
  pools: Joi.array().items(poolInput).min(1).max(20).required(),
  atATime: Joi.number().integer().min(1).max(50).required(),
  failureLimit: Joi.number().integer().min(1).max(1000).required(),
});

export const templatesRoutes: readonly Route[] = [
  operatorRoute({
    method: 'GET',
    path: '/templates',
    area: 'Build',
    summary: 'The templates, each with its newest revision',
    answer: shape({
      templates: listOf(
        shape({ code: text, name: text, says: text, revision: whole, note: text, spec: templateSpecShape }),
      ),
    }),
    handle: async ({ app }) => ok({ templates: await listTemplates(app.db) }),
  }),
  operatorRoute({
    method: 'POST',
    path: '/templates/{template}/revisions',
    area: 'Build',
    summary: "Keep a template's next revision; the first makes the template",
    params: templateParams,
    body: Joi.object<Omit<NewRevision, 'code'>>({
      name: Joi.string().trim().max(80).required(),
      says: Joi.string().trim().allow('').max(255).default(''),
      note: Joi.string().trim().max(255).required(),
      spec: specInput.required(),
    }),
    roles: ['engineer', 'lead'],
    status: 201,
    answer: shape({ revision: whole }),
    work: ({ app, params, body }, scope) => addRevision(app, scope, { code: params.template, ...body }),
    reply: (revision) => created({ revision }, '/api/v1/templates'),
  }),
  operatorRoute({
    method: 'GET',
    path: '/templates/{template}/environments',
    area: 'Build',
    summary: 'The environments in your reach that came from a template, newest first',
    params: templateParams,
    query: listQuery,
    answer: pageShape(shape({ id: text, customer: text, name: text, revision: whole })),
    handle: async ({ app, params, query }, scope) => {
      await newestRevision(app.db, params.template);
      return ok(
        await paged(
          query.limit,
          (limit) => usesOfTemplate(app.db, scope, params.template, { ...query, limit }),
          (one) => one.id,
        ),
      );
    },
  }),
];
