import Joi from 'joi';
import { PARENT_CAUSES, PART_STATES, type ParentPolicy } from '../core/parent-runs';
import { RUN_STATES } from '../core/runs';
import { listQuery, pageOf } from './common';
import { endpoint } from './endpoint';
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

/** How a run over several goes about its parts. */
export const parentPolicySchema: Joi.ObjectSchema<ParentPolicy> = shape({
  atATime: whole,
  failureLimit: whole,
  pilots: whole,
  pauseMinutes: whole,
});

const bounded = (least: number, most: number) => Joi.number().integer().min(least).max(most);

/** What whoever asks may say of that. */
export const parentWish = {
  pilots: filled(bounded(0, 100), 0).description(
    'So many go first, and have to be done before the others begin',
  ),
  pauseMinutes: filled(bounded(0, 24 * 60), 0).description('Minutes between one group and the next'),
  atATime: filled(bounded(1, 50), 4).description('So many at a time'),
  failureLimit: filled(bounded(1, 1_000), 1_000).description('It stops after so many have failed'),
};

const parent = {
  id: text,
  kind: text,
  title: text,
  state: oneOf(RUN_STATES),
  cause: maybe(oneOf(PARENT_CAUSES)),
  /** Of the parts in your reach. */
  parts: whole,
  done: whole,
  failed: whole,
  /** Whether all of its parts are in your reach. */
  whole: flag,
  actor: text,
  /** Empty where some of its parts are beyond your reach. */
  reason: text,
  begunAt: whole,
  endedAt: maybeWhole,
  version: whole,
};
export const parentRunSchema = shape(parent);
export type ParentRun = Of<typeof parentRunSchema>;

export const partSchema = shape({
  customer: text,
  about: text,
  state: oneOf(PART_STATES),
  says: text,
  /** The run that it began; null: none. */
  run: maybeText,
  endedAt: maybeWhole,
});
export type ParentPart = Of<typeof partSchema>;

export const parentWithPartsSchema = shape({
  ...parent,
  policy: parentPolicySchema,
  list: listOf(partSchema),
});
export type ParentWithParts = Of<typeof parentWithPartsSchema>;

const area = 'Runs';
const parentParams = shape({ parent: text });

export const parentRunEndpoints = {
  list: endpoint({
    method: 'GET',
    path: '/parent-runs',
    area,
    summary:
      'Parent runs, over several customers or environments, of which some parts are in your reach; newest first',
    query: listQuery,
    answer: pageOf(parentRunSchema),
  }),
  read: endpoint({
    method: 'GET',
    path: '/parent-runs/{parent}',
    area,
    summary: 'A parent run with its parts, as far as they are in your reach',
    params: parentParams,
    answer: parentWithPartsSchema,
  }),
  stop: endpoint({
    method: 'POST',
    path: '/parent-runs/{parent}/stop',
    area,
    summary: 'Stop it: no other part begins, what is under way ends. All its parts have to be in your reach',
    params: parentParams,
    right: 'decide',
    answer: parentWithPartsSchema,
  }),
  resume: endpoint({
    method: 'POST',
    path: '/parent-runs/{parent}/resume',
    area,
    summary: 'Resume it, and try again what has failed. All its parts have to be in your reach',
    params: parentParams,
    right: 'decide',
    answer: parentWithPartsSchema,
  }),
  end: endpoint({
    method: 'POST',
    path: '/parent-runs/{parent}/end',
    area,
    summary:
      'End one that has stopped: what was not done stays undone, and it cannot be resumed. All its parts have to be in your reach',
    params: parentParams,
    right: 'decide',
    answer: parentWithPartsSchema,
  }),
};
