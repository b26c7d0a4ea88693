import { VERSION_STATES } from '../core/images';
import Joi from 'joi';
import { id, moneySchema } from './common';
import { endpoint } from './endpoint';
import { runSchema } from './runs';
import { flag, listOf, maybe, maybeWhole, oneOf, shape, text, whole, type Of } from './shape';

/** A pool whose hosts are made of a version. */
const useSchema = shape({
  customer: text,
  environment: text,
  environmentId: text,
  pool: text,
  hosts: whole,
});

const changedSchema = shape({ what: text, how: oneOf(['new', 'gone', 'otherwise']), before: text });

export const madeVersionSchema = shape({
  number: whole,
  state: oneOf(VERSION_STATES),
  from: text,
  note: text,
  recipe: text,
  begunAt: whole,
  /** Null: it was not captured yet, or is there no more. */
  capturedAt: maybeWhole,
  /** Where it is wanted, and whether it is there. */
  sites: listOf(shape({ site: text, name: text, there: flag })),
  /** Whether its build machine is wanted, and until when it stays when something fails. */
  machine: flag,
  keepUntil: whole,
  gib: whole,
  programs: listOf(text),
  /** What is otherwise than in the version before: by its recipe, and on its disk. */
  recipeChanges: listOf(changedSchema),
  programChanges: listOf(changedSchema),
  /** Pools of customers in reach, and how many hosts of others stand on it. */
  uses: listOf(useSchema),
  otherHosts: whole,
});
export type MadeVersion = Of<typeof madeVersionSchema>;

export const madeImageSchema = shape({
  /** By this id its changes and runs are found. */
  id: text,
  /** The MSP’s code: it is for everyone; else whose own it is. */
  owner: text,
  code: text,
  name: text,
  says: text,
  site: text,
  siteName: text,
  from: text,
  recipe: text,
  keep: whole,
  size: text,
  diskGiB: whole,
  licences: listOf(text),
  /** When it is built anew by itself, the next times of that, and where a calendar of them is had; null: by hand alone. */
  refresh: maybe(
    shape({
      rule: text,
      after: whole,
      time: text,
      zone: text,
      country: text,
      next: listOf(whole),
      calendar: text,
    }),
  ),
  /** The newest first. */
  versions: listOf(madeVersionSchema),
  /** What is stored at each site, and what that costs a month at what its provider asks; null: it has told no price. */
  stored: listOf(shape({ site: text, name: text, gib: whole, monthly: maybe(moneySchema) })),
  /** What was done with it, newest first; none to who does not reach every customer. */
  runs: listOf(runSchema),
});
export type MadeImage = Of<typeof madeImageSchema>;

export const imageEndpoints = {
  list: endpoint({
    method: 'GET',
    path: '/images',
    area: 'Build',
    summary: 'The images that are made here, each with its versions and what stands on them',
    answer: shape({ images: listOf(madeImageSchema) }),
  }),
  calendar: endpoint({
    method: 'GET',
    path: '/images/{image}/calendar/{key}',
    area: 'Build',
    summary: 'When an image is built anew, as an iCalendar (RFC 5545): for who has its address',
    params: shape({ image: id, key: Joi.string().max(64).required() }),
    anyone: true,
    responseType: 'text/calendar',
  }),
};
