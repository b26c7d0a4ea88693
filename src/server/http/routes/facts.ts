import Joi from 'joi';
import { askDirectory, readFacts } from '../../changes';
import { customerRoute, ok, type Route } from '../route';
import {
  attributesShape,
  customerParams,
  flag,
  listOf,
  maybeWhole,
  oneOf,
  shape,
  text,
  whole,
} from '../shapes';

const block = shape({ base: whole, prefix: whole });
const says = shape({ worked: flag, says: text });

export const poolSpecShape = shape({
  role: text,
  image: text,
  arrival: oneOf('spread', 'fill'),
  profile: oneOf('light', 'standard', 'heavy', 'graphics'),
  partOfPeople: Joi.number().required(),
  concurrency: Joi.number().required(),
  mostSeats: whole,
  diskGiB: whole,
  shareGiBPerPerson: whole,
  ceilingFactor: Joi.number().required(),
  items: listOf(shape({ name: text, kind: oneOf('desktop', 'app') })),
});

export const templateSpecShape = shape({
  naming: text,
  pools: listOf(poolSpecShape),
  atATime: whole,
  failureLimit: whole,
});

export const rateShape = shape({
  meter: text,
  size: Joi.string().allow(null).required(),
  unit: oneOf('hour', 'month'),
  price: text,
  from: whole,
  to: maybeWhole,
});

const needShape = {
  id: text,
  customer: text,
  pool: text,
  vcpu: whole,
  memoryGiB: whole,
  diskGiB: whole,
};

const factsShape = shape({
  now: whole,
  customer: shape({
    code: text,
    currency: text,
    zone: text,
    state: text,
    realm: text,
    plan: shape({ name: text, mostHosts: whole, mostPeople: whole, sizes: listOf(Joi.string()) }),
    hosts: whole,
    people: whole,
    block: block.optional(),
    subnets: listOf(block),
    namesTaken: listOf(Joi.string()),
    environments: listOf(Joi.string()),
  }),
  site: shape({
    code: text,
    name: text,
    kind: oneOf('own nodes', 'hosted region'),
    reservedAddresses: whole,
    sizes: listOf(shape({ key: text, vcpu: whole, memoryGiB: whole })),
    images: listOf(shape({ name: text, diskGiB: whole })),
    nodes: listOf(
      shape({
        id: text,
        zone: text,
        vcpu: whole,
        memoryGiB: whole,
        diskGiB: whole,
        dedicatedTo: Joi.string(),
      }),
    ),
    present: listOf(shape({ ...needShape, node: text })),
    quota: Joi.object({ vcpu: whole, vcpuUsed: whole }),
    signIn: says,
    directory: says,
  }),
  rates: listOf(rateShape),
  template: Joi.object({ code: text, revision: whole, spec: templateSpecShape }),
  known: listOf(
    shape({
      id: text,
      key: text,
      kind: text,
      name: text,
      attributes: attributesShape,
      needs: listOf(Joi.string()),
      version: whole,
      wanted: flag,
      unsettled: flag,
      people: whole,
    }),
  ),
  present: listOf(
    shape({
      ref: text,
      kind: text,
      name: text,
      key: Joi.string().allow(null).required(),
      condition: oneOf('building', 'well', 'unwell'),
      attributes: attributesShape,
    }),
  ),
});

export const factsRoutes: readonly Route[] = [
  customerRoute({
    method: 'GET',
    path: '/customers/{customer}/facts',
    area: 'Changes',
    summary: 'The facts that a proposal for a new environment at a site is computed from',
    params: customerParams,
    query: Joi.object<{ site: string; template: string }>({
      site: Joi.string().max(16).required(),
      template: Joi.string().max(32).required(),
    }),
    answer: factsShape,
    handle: async ({ app, query }, scope) =>
      ok(await readFacts(app, app.db, scope, query, await askDirectory(app, scope))),
  }),
];
