import Joi from 'joi';
import { customerParams, reason } from './common';
import { endpoint } from './endpoint';
import { flag, listOf, maybe, maybeText, maybeWhole, oneOf, shape, text, whole, type Of } from './shape';
import { importOutcomeSchema } from './people';

const names = (description: string): Joi.AnySchema<readonly string[]> =>
  (listOf(Joi.string().max(250).required()) as Joi.ArraySchema<readonly string[]>)
    .max(500)
    .description(description) as Joi.AnySchema<readonly string[]>;

/** Which part of the customer's directory is theirs here. */
const scope = {
  units: names('Units of the directory, each with all below it'),
  groups: names('Groups of the directory'),
};

export const directoryLinkSchema = shape({
  realm: text,
  /** Null: it is not linked. */
  account: maybeText,
  units: listOf(text),
  groups: listOf(text),
  readAt: maybeWhole,
  /** Who came when it was last read. */
  people: maybeWhole,
});
export type DirectoryLink = Of<typeof directoryLinkSchema>;

const link = {
  account: Joi.string()
    .trim()
    .min(1)
    .max(120)
    .required()
    .messages({ 'string.empty': 'the account to read with' }),
  secret: maybe(Joi.string().min(1).max(200).required()).description('Null: the one that is kept'),
  ...scope,
};
export const sentLinkSchema = shape(link);
export type SentLink = Of<typeof sentLinkSchema>;

const counted = listOf(shape({ name: text, people: whole }));

export const linkTrySchema = shape({
  outcome: oneOf(['works', 'fails']),
  says: text,
  /** What to do about it; empty when there is nothing to do. */
  fix: text,
  units: counted,
  groups: counted,
  /** Who would come, and who of them are already known here. */
  people: whole,
  known: whole,
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
const roles = ['engineer', 'lead'] as const;

export const directoryEndpoints = {
  read: endpoint({
    method: 'GET',
    path: '/customers/{customer}/directory',
    area,
    summary: 'The link to the customer’s directory, and which part of it is in scope',
    params: customerParams,
    answer: directoryLinkSchema,
  }),
  try: endpoint({
    method: 'POST',
    path: '/customers/{customer}/directory/tried',
    area,
    summary: 'Signs in to the directory for real and counts who would come; keeps nothing',
    params: customerParams,
    roles,
    body: sentLinkSchema,
    answer: linkTrySchema,
  }),
  keep: endpoint({
    method: 'PUT',
    path: '/customers/{customer}/directory',
    area,
    summary: 'Keeps the link, when it lets us in',
    params: customerParams,
    roles,
    body: shape({ ...link, reason }),
    answer: directoryLinkSchema,
  }),
  take: endpoint({
    method: 'POST',
    path: '/customers/{customer}/directory/reading',
    area,
    summary: 'Takes in who is in scope; who cannot be is told',
    params: customerParams,
    roles,
    answer: importOutcomeSchema,
  }),
};
