import Joi from 'joi';
import { SITE_KINDS, type ImageFacts } from '../core/facts';
import type { MachineSize } from '../core/machines';
import { saysSchema } from './common';
import { endpoint } from './endpoint';
import { listOf, maybe, maybeText, oneOf, part, shape, text, whole, type Of } from './shape';

export const NODE_STATES = ['up', 'lost'] as const;

export const sizeSchema: Joi.ObjectSchema<MachineSize> = shape({ key: text, vcpu: whole, memoryGiB: whole });
export const imageSchema: Joi.ObjectSchema<ImageFacts> = shape({ name: text, diskGiB: whole });
export const quotaSchema = shape({ vcpu: whole, vcpuUsed: whole });

export const nodeSchema = shape({
  id: text,
  zone: text,
  state: oneOf(NODE_STATES),
  dedicatedTo: maybeText,
  vcpu: whole,
  memoryGiB: whole,
  diskGiB: whole,
  hosts: whole,
  memoryUsed: whole,
  vcpuUsed: whole,
});
export type SiteNode = Of<typeof nodeSchema>;

export const siteSchema = shape({
  code: text,
  name: text,
  kind: oneOf(SITE_KINDS),
  provider: text,
  images: listOf(imageSchema),
  sizes: listOf(sizeSchema),
  /** Null: it shows nodes and no quota. */
  quota: maybe(quotaSchema),
  nodes: listOf(nodeSchema),
  hosts: whole,
  signIn: saysSchema,
  readAt: whole,
});
export type Site = Of<typeof siteSchema>;

/** A block that a customer holds, and where it lies in its range: both as parts of the range. */
export const givenBlockSchema = shape({ cidr: text, customer: text, from: part, part });

export const rangeSchema = shape({
  site: text,
  cidr: text,
  /** To customers in reach. */
  given: listOf(givenBlockSchema),
  /** How many blocks customers out of reach hold; where they lie is theirs. */
  others: whole,
  /** Of the range's addresses, the part that is given. */
  full: part,
  largestFree: maybeText,
  /** How scattered what is free is: 0 one block, towards 1 many small ones. */
  fragmentation: part,
});
export type AddressRange = Of<typeof rangeSchema>;

const area = 'Ground';

export const siteEndpoints = {
  list: endpoint({
    method: 'GET',
    path: '/sites',
    area,
    summary: 'The sites with their nodes, sizes and quotas, and how full they are',
    answer: shape({ sites: listOf(siteSchema) }),
  }),
  addRange: endpoint({
    method: 'POST',
    path: '/sites/{site}/ranges',
    area,
    summary: 'Give a site a private range of addresses to hand out blocks of',
    params: shape({ site: Joi.string().max(16).required() }),
    roles: ['lead'],
    body: shape({ cidr: Joi.string().max(18).required() }),
    status: 201,
    answer: shape({ site: text, cidr: text }),
  }),
  addresses: endpoint({
    method: 'GET',
    path: '/addresses',
    area,
    summary: 'The address ranges of the sites, the blocks given of them, and what is left',
    answer: shape({ ranges: listOf(rangeSchema) }),
  }),
};
