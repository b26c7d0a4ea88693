import Joi from 'joi';
import { connectProvider, getProvider, listProviders, type NewProvider } from '../../providers';
import { addressSpace, addRange, listSites } from '../../sites';
import { created, ok, operatorRoute, type Route } from '../route';
import { flag, listOf, maybeText, maybeWhole, oneOf, shape, text, whole } from '../shapes';

const signIn = shape({ worked: flag, says: text });

const providerShape = shape({
  code: text,
  name: text,
  url: text,
  account: text,
  signIn,
  answeredAt: maybeWhole,
});

const siteShape = shape({
  code: text,
  name: text,
  kind: oneOf('own nodes', 'hosted region'),
  provider: text,
  images: listOf(shape({ name: text, diskGiB: whole })),
  sizes: listOf(shape({ key: text, vcpu: whole, memoryGiB: whole })),
  quota: Joi.object({ vcpu: whole, vcpuUsed: whole }).allow(null).required(),
  nodes: listOf(
    shape({
      id: text,
      zone: text,
      state: oneOf('up', 'lost'),
      dedicatedTo: maybeText,
      vcpu: whole,
      memoryGiB: whole,
      diskGiB: whole,
      hosts: whole,
      memoryUsed: whole,
      vcpuUsed: whole,
    }),
  ),
  hosts: whole,
  signIn,
  readAt: whole,
});

const codeParam = Joi.string()
  .pattern(/^[a-z][a-z0-9-]{0,15}$/)
  .required();

export const sitesRoutes: readonly Route[] = [
  operatorRoute({
    method: 'GET',
    path: '/providers',
    area: 'Ground',
    summary: 'The providers that are connected; secrets are never shown',
    answer: shape({ providers: listOf(providerShape) }),
    handle: async ({ app }) => ok({ providers: await listProviders(app.db) }),
  }),
  operatorRoute({
    method: 'PUT',
    path: '/providers/{provider}',
    area: 'Ground',
    summary:
      'Connect a provider or mend its connection: its credentials are tried for real, and its sites are read',
    params: Joi.object<{ provider: string }>({ provider: codeParam }),
    body: Joi.object<Omit<NewProvider, 'code'>>({
      name: Joi.string().trim().max(80).required(),
      url: Joi.string()
        .uri({ scheme: ['http', 'https'] })
        .max(255)
        .required(),
      account: Joi.string().max(80).required(),
      secret: Joi.string().max(200).required(),
    }),
    roles: ['lead'],
    answer: providerShape,
    work: async ({ app, params, body }, scope) => {
      await connectProvider(app, scope, { code: params.provider, ...body });
    },
    reply: async (_made, { app, params }) => ok(await getProvider(app.db, params.provider)),
  }),
  operatorRoute({
    method: 'GET',
    path: '/sites',
    area: 'Ground',
    summary: 'The sites with their nodes, sizes and quotas, and how full they are',
    answer: shape({ sites: listOf(siteShape) }),
    handle: async ({ app }, scope) => ok({ sites: await listSites(app.db, scope) }),
  }),
  operatorRoute({
    method: 'POST',
    path: '/sites/{site}/ranges',
    area: 'Ground',
    summary: 'Give a site a private range of addresses to hand out blocks of',
    params: Joi.object<{ site: string }>({ site: Joi.string().max(16).required() }),
    body: Joi.object<{ cidr: string }>({ cidr: Joi.string().max(18).required() }),
    roles: ['lead'],
    status: 201,
    answer: shape({ site: text, cidr: text }),
    work: ({ app, params, body }, scope) => addRange(app, scope, params.site, body.cidr),
    reply: (_made, { params, body }) => created({ site: params.site, cidr: body.cidr }, '/api/v1/addresses'),
  }),
  operatorRoute({
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
];
