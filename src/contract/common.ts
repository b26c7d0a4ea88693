import Joi from 'joi';
import { UNDO } from '../core/planning';
import { HOST_STATUSES } from '../core/status';
import { unplainness } from '../core/text';
import {
  filled,
  listOf,
  maybeText,
  number,
  oneOf,
  optional,
  part,
  shape,
  text,
  whole,
  type Of,
} from './shape';

/** What several areas share. */

/** Amounts are whole minor units with their currency beside them. */
export const moneySchema = shape({ minor: whole, currency: text });

/** How a customer is drawn: a shape with a pattern and a hue of its own. */
export const markSchema = shape({ code: text, hue: whole, shape: whole, pattern: whole });
export type Mark = Of<typeof markSchema>;

export const arcSchema = shape({ status: oneOf(HOST_STATUSES), hosts: whole, fill: part });

export const impactSchema = shape({
  people: whole,
  hosts: whole,
  monthly: moneySchema,
  seconds: number,
  late: optional(number),
  undo: oneOf(UNDO),
});

/** What an outside system said when it was last tried. */
export const saysSchema = shape({ worked: Joi.boolean().required(), says: text });
export type Says = Of<typeof saysSchema>;

export const customerCode = Joi.string()
  .pattern(/^[A-Z0-9]{2,16}$/)
  .required()
  .messages({ 'string.pattern.base': '2 to 16 capital letters and digits' })
  .description("The customer's code");
/** What we name things by: a ULID. */
export const id = Joi.string()
  .pattern(/^[0-9A-HJKMNP-TV-Z]{26}$/)
  .required()
  .messages({ 'string.pattern.base': 'is no id' });

/** Lets a text through that stands on one line and is what it looks like. */
function plain(text: string, helpers: Joi.CustomHelpers): string | Joi.ErrorReport {
  const fault = unplainness(text);
  return fault === undefined ? text : helpers.message({ custom: fault });
}

/** The same of what may stand on several lines: what people are told. */
export function plainLines(text: string, helpers: Joi.CustomHelpers): string | Joi.ErrorReport {
  const fault = text
    .split(/\r?\n/)
    .map(unplainness)
    .find((one) => one !== undefined);
  return fault === undefined ? text : helpers.message({ custom: fault });
}

/** Codes that we give: of providers, plans, cards. */
export const ownCode = Joi.string()
  .pattern(/^[a-z][a-z0-9-]{0,15}$/)
  .required()
  .messages({ 'string.pattern.base': 'small letters, digits and hyphens, a letter first, 16 at most' });
export const ownName = Joi.string().trim().min(1).max(80).custom(plain).required();

export { OWN_CODE } from './own-code';

export const customerParams = shape({ customer: customerCode });
export const environmentParams = shape({ customer: customerCode, environment: id });
export const runParams = shape({ customer: customerCode, run: id });

/** A list's page: `after` is the `next` of the page before. */
export const listKeys = {
  after: optional(
    Joi.string()
      .pattern(/^[!-~]{1,80}$/)
      .messages({ 'string.pattern.base': 'use the `next` of the page before' })
      .description('The `next` of the page before'),
  ),
  find: optional(Joi.string().max(80).allow('').description('Only what contains this text')),
  limit: filled(Joi.number().integer().min(1).max(1000), 100),
};
export const listQuery = shape(listKeys).optional();
export type ListQuery = Of<typeof listQuery>;

export interface Page<Entry> {
  readonly entries: readonly Entry[];
  /** Undefined when this is all: null, as JSON has it. */
  readonly next: string | null;
}
export const pageOf = <Entry>(entry: Joi.AnySchema<Entry>): Joi.AnySchema<Page<Entry>> =>
  shape({ entries: listOf(entry), next: maybeText });

/** Why something is done, for the trail. */
export const reason = filled(Joi.string().trim().allow('').max(250).custom(plain), '');

/** Something in a file that cannot be used, and where it stands. */
export const fileFaultSchema = shape({ line: whole, column: whole, path: text, says: text });
export type FileFault = Of<typeof fileFaultSchema>;
