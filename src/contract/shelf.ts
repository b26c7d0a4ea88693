import { moneySchema } from './common';
import { endpoint } from './endpoint';
import { flag, listOf, maybe, maybeText, maybeWhole, oneOf, shape, text, whole, type Of } from './shape';

export const READY_STATES = ['ready', 'being built', 'handed over', 'unwell'] as const;

/** One kind of host that is kept ready at a site. */
export const shelfSchema = shape({
  environment: text,
  site: text,
  siteName: text,
  image: text,
  size: text,
  diskGiB: whole,
  /** So many are wanted; `affords`: so many of them the budget reaches for, null where there is none. */
  wanted: whole,
  affords: maybeWhole,
  /** Decimal text a month; null: no limit. */
  most: maybeText,
  currency: text,
  /** What one costs a month, and what this shelf has cost this month until now; null: its provider has told no price. */
  each: maybe(moneySchema),
  soFar: maybe(moneySchema),
  hosts: listOf(
    shape({ name: text, state: oneOf(READY_STATES), since: whole, lacks: listOf(text), byHand: flag }),
  ),
});
export type Shelf = Of<typeof shelfSchema>;

/** A server that nobody owns, and the shelf that it might stand on. */
export const strayServerSchema = shape({
  ref: text,
  name: text,
  site: text,
  size: text,
  diskGiB: whole,
  lacks: listOf(text),
  shelf: maybeText,
});
export type StrayServer = Of<typeof strayServerSchema>;

export const shelvesSchema = shape({
  shelves: listOf(shelfSchema),
  strays: listOf(strayServerSchema),
  /** Plans that hand them out, and so many of them a new environment. */
  plans: listOf(shape({ code: text, name: text, hosts: whole })),
  /** The last that were handed over to customers in reach, newest first. */
  handed: listOf(shape({ at: whole, host: text, customer: text, to: text })),
});
export type Shelves = Of<typeof shelvesSchema>;

export const shelfEndpoints = {
  list: endpoint({
    method: 'GET',
    path: '/ground/shelf',
    area: 'Ground',
    summary: 'Hosts that are kept ready at each site, what they cost, and who got the last of them',
    answer: shelvesSchema,
  }),
};
