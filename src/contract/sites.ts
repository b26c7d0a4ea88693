import Joi from 'joi';
import { SITE_KINDS, type ImageFacts } from '../core/facts';
import { VERSION_STATES } from '../core/images';
import type { MachineSize } from '../core/machines';
import { customerCode, ownName, saysSchema } from './common';
import { endpoint } from './endpoint';
import {
  filled,
  flag,
  listOf,
  maybe,
  maybeText,
  oneOf,
  optional,
  part,
  shape,
  text,
  whole,
  type Of,
} from './shape';

export const NODE_STATES = ['up', 'lost', 'gone'] as const;

export const sizeSchema: Joi.ObjectSchema<MachineSize> = shape({
  key: text,
  vcpu: whole,
  memoryGiB: whole,
  graphicsGiB: optional(whole),
  family: optional(text),
});
export const imageSchema: Joi.ObjectSchema<ImageFacts> = shape({
  name: text,
  diskGiB: whole,
  of: optional(
    shape({
      line: text,
      number: whole,
      state: oneOf(VERSION_STATES),
      at: whole,
      licences: listOf(text),
      programs: listOf(text),
    }),
  ),
});
export const quotaSchema = shape({
  vcpu: whole,
  vcpuUsed: whole,
  /** Those of families of sizes, within the whole. */
  families: optional(listOf(shape({ family: text, vcpu: whole, vcpuUsed: whole }))),
  others: optional(listOf(shape({ of: text, most: whole, used: whole }))),
});

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

/** A block that a customer holds; `used`: what of it is given to subnets. */
export const givenBlockSchema = shape({ cidr: text, customer: text, used: part });
export type GivenBlock = Of<typeof givenBlockSchema>;

/** Addresses that are in use in a network elsewhere. */
export const keptSchema = shape({ cidr: text, name: text });
export type Kept = Of<typeof keptSchema>;

const cidrField = Joi.string()
  .trim()
  .max(18)
  .required()
  .messages({ 'string.empty': 'write it like 10.20.0.0/16' });

export const newRangeSchema = shape({ cidr: cidrField });
export const keepClearSchema = shape({ cidr: cidrField, name: ownName });
export const changedRangeSchema = shape({
  cidr: cidrField,
  /** The range that it becomes, which holds all of it. */
  becomes: filled(maybe(cidrField), null),
  closed: filled(maybe(Joi.boolean().required()), null),
});
export type ChangedRange = Of<typeof changedRangeSchema>;

export const rangeSchema = shape({
  site: text,
  cidr: text,
  /** Whether nothing more is given of it. */
  closed: flag,
  /** To customers in reach. */
  given: listOf(givenBlockSchema),
  /** How many blocks customers out of reach hold; where they lie is theirs. */
  others: whole,
  /** What is in use elsewhere, and where. */
  kept: listOf(keptSchema),
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
    everyone: true,
    summary: 'Give a site a private range of addresses to hand out blocks of',
    params: shape({ site: Joi.string().max(16).required() }),
    right: 'decide',
    body: newRangeSchema,
    status: 201,
    answer: shape({ site: text, cidr: text }),
  }),
  changeRange: endpoint({
    method: 'PUT',
    path: '/sites/{site}/ranges',
    area,
    everyone: true,
    summary: 'Make a range of a site larger, close it (nothing more is given of it), or open it again',
    params: shape({ site: Joi.string().max(16).required() }),
    right: 'decide',
    body: changedRangeSchema,
    answer: shape({ site: text, cidr: text }),
  }),
  removeRange: endpoint({
    method: 'DELETE',
    path: '/sites/{site}/ranges',
    area,
    everyone: true,
    summary: 'Take a range away of which nothing is given',
    params: shape({ site: Joi.string().max(16).required() }),
    query: newRangeSchema,
    right: 'decide',
    status: 204,
  }),
  keepClear: endpoint({
    method: 'POST',
    path: '/addresses/kept',
    area,
    everyone: true,
    summary: 'Keep addresses clear that are in use elsewhere: nothing is given of them',
    right: 'decide',
    body: keepClearSchema,
    status: 201,
    answer: keptSchema,
  }),
  giveUp: endpoint({
    method: 'DELETE',
    path: '/addresses/kept',
    area,
    everyone: true,
    summary: 'Keep addresses clear no longer',
    query: newRangeSchema,
    right: 'decide',
    status: 204,
  }),
  growBlock: endpoint({
    method: 'POST',
    path: '/customers/{customer}/blocks/{site}/larger',
    area,
    summary: 'Make a customer’s address block at a site twice as large, where it lies',
    params: shape({ customer: customerCode, site: Joi.string().max(16).required() }),
    right: 'build',
    status: 201,
    answer: shape({ site: text, cidr: text }),
  }),
  addresses: endpoint({
    method: 'GET',
    path: '/addresses',
    area,
    summary: 'The address ranges of the sites, the blocks given of them, and what is left',
    answer: shape({ ranges: listOf(rangeSchema), kept: listOf(keptSchema) }),
  }),
};
