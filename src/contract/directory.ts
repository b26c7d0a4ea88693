import Joi from 'joi';
import { customerParams, reason } from './common';
import { endpoint, question } from './endpoint';
import {
  filled,
  flag,
  listOf,
  maybe,
  maybeText,
  maybeWhole,
  oneOf,
  shape,
  text,
  whole,
  type Of,
} from './shape';

const names = (description: string): Joi.AnySchema<readonly string[]> =>
  (listOf(Joi.string().max(250).required()) as Joi.ArraySchema<readonly string[]>)
    .max(500)
    .description(description) as Joi.AnySchema<readonly string[]>;

/** Which part of the customer's directory is theirs here. */
const scope = {
  units: names('Units of the directory, each with all below it'),
  groups: names('Groups of the directory, by its own ids for them, each with all groups in it'),
};

/** How the reading of a directory stands: `stopped`: somebody has to look first. */
export const READING_STATES = ['linked', 'asked', 'reading', 'taking', 'stopped'] as const;

/** Over the directory service of the realm; past it, from an address of its own; or as it pushes to us (SCIM 2.0). */
export const DIRECTORY_WAYS = ['scim', 'ldap', 'push'] as const;

export const directoryLinkSchema = shape({
  realm: text,
  linked: flag,
  via: oneOf(DIRECTORY_WAYS),
  /** Over LDAP: where it is, below which entry it is read, and as whom. */
  address: text,
  base: text,
  bindAs: text,
  units: listOf(text),
  groups: listOf(text),
  state: oneOf(READING_STATES),
  /** How far it has come, or why it stopped. */
  says: text,
  /** What somebody has to agree to for it to go on; null: nothing. */
  leaving: maybeText,
  readAt: maybeWhole,
  /** When a reading last changed who is here. */
  movedAt: maybeWhole,
  /** Who came when it was last read. */
  people: maybeWhole,
  /** The first of those who could not be taken in, each with the reason. */
  bad: listOf(text),
});
export type DirectoryLink = Of<typeof directoryLinkSchema>;

const link = {
  secret: maybe(Joi.string().trim().min(1).max(1000).required()).description(
    'The bearer token or password to read with; null: the one that is kept',
  ),
  via: filled(oneOf(DIRECTORY_WAYS), 'scim'),
  address: filled(Joi.string().trim().max(300).allow(''), ''),
  base: filled(Joi.string().trim().max(400).allow(''), ''),
  bindAs: filled(Joi.string().trim().max(400).allow(''), ''),
  ...scope,
};
/** A link over the directory service: there is nothing more to say of it. */
export const OVER_SCIM = { via: 'scim', address: '', base: '', bindAs: '' } as const;

export const sentLinkSchema = shape(link);
export type SentLink = Of<typeof sentLinkSchema>;

export const linkTrySchema = shape({
  outcome: oneOf(['works', 'fails']),
  says: text,
  /** What to do about it; empty when there is nothing to do. */
  fix: text,
  units: listOf(shape({ name: text, people: whole })),
  groups: listOf(shape({ id: text, name: text, unit: text, people: whole })),
  /** Who would be here. */
  people: whole,
  added: whole,
  changed: whole,
  returned: whole,
  left: whole,
  /** The first of those who would leave, by account. */
  leaving: listOf(text),
  disabled: whole,
  outside: whole,
  /** So many cannot be taken in, like those without a mail address: the first of them, each with the reason. */
  unfit: whole,
  bad: listOf(text),
  /** Whether the plan has room for all of them. */
  fits: flag,
});
export type LinkTry = Of<typeof linkTrySchema>;

const area = 'People';
const right = 'build';

export const directoryEndpoints = {
  read: endpoint({
    method: 'GET',
    path: '/customers/{customer}/directory',
    area,
    summary: 'The link to the customer’s directory, and which part of it is in scope',
    params: customerParams,
    answer: directoryLinkSchema,
  }),
  try: question({
    path: '/customers/{customer}/directory/tried',
    area,
    summary: 'Reads the directory for real and counts what would change; keeps nothing',
    params: customerParams,
    right,
    body: sentLinkSchema,
    answer: linkTrySchema,
  }),
  keep: endpoint({
    method: 'PUT',
    path: '/customers/{customer}/directory',
    area,
    summary: 'Keeps the link, when it lets us in',
    params: customerParams,
    right,
    body: shape({ ...link, reason }),
    answer: directoryLinkSchema,
  }),
  take: endpoint({
    method: 'POST',
    path: '/customers/{customer}/directory/reading',
    area,
    summary: 'Has the directory read now, and what changed in it taken in; from then on it is followed',
    params: customerParams,
    right,
    body: shape({
      /** So many may leave: what the link says under `leaving`. */
      agree: filled(maybe(Joi.string().hex().length(64).required()), null),
    }),
    answer: directoryLinkSchema,
  }),
};
