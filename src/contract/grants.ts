import Joi from 'joi';
import { GRANT_COLUMNS, WHY_LINKS, WHY_MENDS } from '../core/grants';
import { CROSSINGS, GRANTED_TO, ITEM_ICONS, ITEM_KINDS, SCREENS } from '../core/intent';

export { SCREENS };
import { HOST_STATUSES } from '../core/status';
import { customerCode, customerParams, id, reason } from './common';
import { endpoint, question } from './endpoint';
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
  /** Under which heading people find it; empty: under none. */
  folder: text,
  /** It is not shown on people’s desks. */
  hidden: flag,
  icon: maybe(oneOf(ITEM_ICONS)),
  /** What may cross between a session and where it is shown, in the end. */
  crosses: listOf(oneOf(CROSSINGS)),
  /** How large it is shown. */
  screen: oneOf(SCREENS),
});

const rules = {
  /** No more than this crosses at any of the customer’s items. */
  crosses: listOf(oneOf(CROSSINGS)),
  screen: oneOf(SCREENS),
};
export const deskRulesSchema = shape(rules);

export const publishedSchema = shape({
  rules: deskRulesSchema,
  pools: listOf(
    shape({
      pool: text,
      image: text,
      /** What may cross in it. */
      crosses: listOf(oneOf(CROSSINGS)),
      items: listOf(
        shape({
          name: text,
          kind: oneOf(ITEM_KINDS),
          starts: optional(text),
          arguments: optional(text),
          folder: optional(text),
          hidden: optional(flag),
          crosses: optional(listOf(oneOf(CROSSINGS))),
          screen: optional(oneOf(SCREENS)),
          icon: optional(oneOf(ITEM_ICONS)),
        }),
      ),
      /** What is on its image; none: it is not ours, and nobody told. */
      found: listOf(shape({ name: text, version: text })),
    }),
  ),
});
export type Published = Of<typeof publishedSchema>;

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

export const grantsFileSchema = shape({
  /** What the file grants beyond what is granted. */
  add: listOf(
    shape({
      pool: text,
      item: text,
      to,
      id: text,
      until: maybeWhole,
      name: text,
      unit: text,
      inScope: flag,
      people: whole,
    }),
  ),
  /** So many stand already. */
  same: whole,
  /** What is left out, by line; the first of them. */
  bad: listOf(shape({ line: whole, reason: text })),
  badInAll: whole,
});
export type GrantsFile = Of<typeof grantsFileSchema>;

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
  published: endpoint({
    method: 'GET',
    path: '/customers/{customer}/environments/{environment}/published',
    area,
    summary: 'What an environment’s pools publish in full, and what is on their images',
    params: shape({ customer: customerCode, environment: id }),
    answer: publishedSchema,
  }),
  rules: endpoint({
    method: 'PUT',
    path: '/customers/{customer}/desk-rules',
    area,
    summary:
      'What may cross at all of the customer’s items, and how large they are shown where an item says nothing',
    right: 'build',
    params: customerParams,
    body: shape({ ...rules, reason }),
    answer: deskRulesSchema,
  }),
  file: question({
    path: '/customers/{customer}/environments/{environment}/grants/file',
    area,
    summary: `What a CSV file with the columns ${GRANT_COLUMNS.join(', ')} (RFC 4180) would grant; changes nothing`,
    params: shape({ customer: customerCode, environment: id }),
    right: 'build',
    requestType: 'text/csv',
    mostBytes: 4_000_000,
    body: Joi.string().allow('').required(),
    answer: grantsFileSchema,
  }),
  csv: endpoint({
    method: 'GET',
    path: '/customers/{customer}/environments/{environment}/grants.csv',
    area,
    summary: 'An environment’s grants as CSV, as such a file is read',
    params: shape({ customer: customerCode, environment: id }),
    responseType: 'text/csv',
  }),
  outlook: question({
    path: '/customers/{customer}/environments/{environment}/grants/outlook',
    area,
    summary: 'What granting and taking would change, person by person; changes nothing',
    params: shape({ customer: customerCode, environment: id }),
    right: 'build',
    body: shape({ add: listOf(grantSent), take: listOf(grantSent) }),
    answer: outlookSchema,
  }),
};
export type MendTold = NonNullable<WhyLinkTold['mend']>;
