import Joi from 'joi';
import { WHY_LINKS, WHY_MENDS } from '../core/grants';
import { CROSSINGS, GRANTED_TO, ITEM_KINDS } from '../core/intent';
import { HOST_STATUSES } from '../core/status';
import { customerCode, customerParams, id } from './common';
import { endpoint } from './endpoint';
import { sessionSchema } from './sessions';
import { recentSchema } from './trail';
import { flag, listOf, maybe, maybeWhole, oneOf, optional, shape, text, whole, type Of } from './shape';

/** Who is in which group, who is granted what, what comes of it for one person, and why. */

const to = oneOf(GRANTED_TO);

export const groupSchema = shape({
  id: text,
  name: text,
  /** Where it stands in the directory, from the top. */
  unit: text,
  /** Whether it is read who is in it. */
  inScope: flag,
  /** In it directly, and with all groups in it. */
  direct: whole,
  people: whole,
  /** Groups that it is in directly. */
  within: listOf(text),
  /** How many items are granted to it, itself. */
  grants: whole,
});
export type Group = Of<typeof groupSchema>;

export const memberSchema = shape({
  id: text,
  account: text,
  name: text,
  unit: text,
  /** The groups by which they are in it, from theirs to this one. */
  way: listOf(text),
});
export type Member = Of<typeof memberSchema>;

export const linkSchema = shape({
  link: oneOf(WHY_LINKS),
  holds: flag,
  says: text,
  mend: maybe(oneOf(WHY_MENDS)),
});
export type WhyLinkTold = Of<typeof linkSchema>;

export const itemOfSchema = shape({
  environmentId: text,
  environment: text,
  site: text,
  pool: text,
  name: text,
  kind: oneOf(ITEM_KINDS),
  /** What may cross between a session and where it is shown. */
  crosses: listOf(oneOf(CROSSINGS)),
});

export const personDetailSchema = shape({
  id: text,
  account: text,
  given: text,
  family: text,
  mail: text,
  unit: text,
  leftAt: maybeWhole,
  /** Every group they are in; `way` from one that they are in directly. */
  groups: listOf(shape({ id: text, name: text, unit: text, inScope: flag, way: listOf(text) })),
  items: listOf(
    shape({
      item: itemOfSchema,
      through: listOf(shape({ to, way: listOf(text), until: maybeWhole })),
      /** What keeps them out all the same; null: they get in. */
      missing: maybe(linkSchema),
    }),
  ),
  /** Items that are published and not granted to them. */
  others: listOf(itemOfSchema),
  sessions: listOf(sessionSchema),
  /** Where they were in lately, newest first. */
  before: listOf(shape({ host: text, since: whole, endedAt: whole })),
  /** The hosts that those are on, and how they are. */
  hosts: listOf(shape({ id: text, name: text, status: oneOf(HOST_STATUSES), sessions: whole, seats: whole })),
  /** What was done lately by them, for them or with what is theirs. */
  recent: listOf(recentSchema),
  desktops: listOf(
    shape({
      environmentId: text,
      environment: text,
      pool: text,
      host: text,
      hostId: text,
      status: text,
      sessions: whole,
    }),
  ),
});
export type PersonDetail = Of<typeof personDetailSchema>;
export type PersonItem = PersonDetail['items'][number];
export type Item = Of<typeof itemOfSchema>;

export const grantTargetSchema = shape({
  to,
  id: text,
  name: text,
  /** Of a group outside the scope: where it stands. */
  unit: text,
  inScope: flag,
  people: whole,
  until: maybeWhole,
});

export const offeredSchema = shape({
  item: itemOfSchema,
  licences: whole,
  seated: whole,
  grants: listOf(grantTargetSchema),
});
export type Offered = Of<typeof offeredSchema>;

const personParams = shape({ customer: customerCode, person: id });
const groupParams = shape({ customer: customerCode, group: id });

const grantSent = shape({
  pool: Joi.string().max(24).required(),
  item: Joi.string().max(80).required(),
  to,
  id: Joi.string().allow('').max(26).required(),
  until: maybeWhole,
});

const mover = shape({ id: text, account: text, name: text });

export const outlookSchema = shape({
  /** Who sees something there that they do not see now, and who sees something no more: how many, and the first of them. */
  gain: whole,
  gaining: listOf(mover),
  lose: whole,
  losing: listOf(mover),
  /** Of those who lose something, who sees nothing there any more, and who is in now. */
  out: whole,
  inNow: whole,
  pools: listOf(shape({ pool: text, entitled: whole, licences: whole, short: whole })),
});
export type Outlook = Of<typeof outlookSchema>;

const whyQuery = shape({
  environment: id,
  pool: Joi.string().max(24).required(),
  item: Joi.string().max(80).required(),
});

export const keptOutSchema = shape({
  people: whole,
  getIn: whole,
  keptOut: listOf(shape({ id: text, account: text, name: text, link: linkSchema })),
});
export type KeptOut = Of<typeof keptOutSchema>;

const area = 'People';

export const grantEndpoints = {
  groups: endpoint({
    method: 'GET',
    path: '/customers/{customer}/groups',
    area,
    summary: 'The groups of the customer’s directory, those outside the scope too',
    params: customerParams,
    answer: shape({ entries: listOf(groupSchema), units: listOf(text) }),
  }),
  members: endpoint({
    method: 'GET',
    path: '/customers/{customer}/groups/{group}/members',
    area,
    summary: 'Who is in a group, and through which',
    params: groupParams,
    answer: shape({ entries: listOf(memberSchema) }),
  }),
  person: endpoint({
    method: 'GET',
    path: '/customers/{customer}/people/{person}',
    area,
    summary: 'One person: their groups, what they see and through what, their sessions and desktops',
    params: personParams,
    answer: personDetailSchema,
  }),
  why: endpoint({
    method: 'GET',
    path: '/customers/{customer}/people/{person}/why',
    area,
    summary: 'Why a person gets in to an item, or why not, link by link',
    params: personParams,
    query: whyQuery,
    answer: shape({ links: listOf(linkSchema) }),
  }),
  keptOut: endpoint({
    method: 'GET',
    path: '/customers/{customer}/groups/{group}/why',
    area,
    summary: 'Who of a group would not get in to an item, and why',
    params: groupParams,
    query: whyQuery,
    answer: keptOutSchema,
  }),
  items: endpoint({
    method: 'GET',
    path: '/customers/{customer}/items',
    area,
    summary: 'What the customer’s pools publish, and to whom it is granted',
    params: customerParams,
    query: optional(shape({ environment: optional(id) })),
    answer: shape({ entries: listOf(offeredSchema) }),
  }),
  outlook: endpoint({
    method: 'POST',
    path: '/customers/{customer}/environments/{environment}/grants/outlook',
    area,
    summary: 'What granting and taking would change, person by person; changes nothing',
    params: shape({ customer: customerCode, environment: id }),
    roles: ['engineer', 'lead'],
    body: shape({ add: listOf(grantSent), take: listOf(grantSent) }),
    answer: outlookSchema,
  }),
};
export type MendTold = NonNullable<WhyLinkTold['mend']>;
