import Joi from 'joi';
import { addressSpace, listSites, listTemplates, newestRevision, usesOfTemplate } from '../../ground';
import { ok, paged, within, type Route } from '../route';
import { listOf, listQuery, maybeText, pageShape, shape, text, whole } from '../shapes';

export const groundRoutes: readonly Route[] = [
  within({
    method: 'GET',
    path: '/sites',
    area: 'Ground',
    summary: 'The sites with their nodes, sizes and quotas, and how full they are',
    answer: shape({ sites: listOf(Joi.object().unknown()) }),
    handle: async ({ app }, scope) => ok({ sites: await listSites(app.db, scope) }),
  }),
  within({
    method: 'GET',
    path: '/addresses',
    area: 'Ground',
    summary: 'The address ranges of the sites, the blocks given of them, and what is left',
    answer: shape({
      ranges: listOf(
        shape({
          site: text,
          cidr: text,
          given: listOf(
            shape({
              cidr: text,
              customer: text,
              from: Joi.number().required(),
              part: Joi.number().required(),
            }),
          ),
          others: whole,
          full: Joi.number().min(0).max(1).required(),
          largestFree: maybeText,
          fragmentation: Joi.number().min(0).max(1).required(),
        }),
      ),
    }),
    handle: async ({ app }, scope) => ok({ ranges: await addressSpace(app.db, scope) }),
  }),
  within({
    method: 'GET',
    path: '/templates',
    area: 'Build',
    summary: 'The templates, each with its newest revision',
    answer: shape({ templates: listOf(Joi.object().unknown()) }),
    handle: async ({ app }) => ok({ templates: await listTemplates(app.db) }),
  }),
  within({
    method: 'GET',
    path: '/templates/{template}/environments',
    area: 'Build',
    summary: 'The environments in your reach that came from a template, newest first',
    params: Joi.object<{ template: string }>({ template: Joi.string().max(32).required() }),
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
