import type Joi from 'joi';
import type { Policy } from '../core/resources';
import { RUN_STATES, STEP_STATES, STOP_CAUSES } from '../core/runs';
import { customerParams, impactSchema, listQuery, pageOf, runParams } from './common';
import { endpoint } from './endpoint';
import {
  flag,
  listOf,
  maybe,
  maybeText,
  maybeWhole,
  oneOf,
  optional,
  shape,
  text,
  whole,
  type Of,
} from './shape';

/** What a run can be about. */
export const RUN_SUBJECTS = ['environment', 'image', 'site', 'customer', 'import', 'run'] as const;

export const policySchema: Joi.ObjectSchema<Policy> = shape({
  atATime: whole,
  failureLimit: whole,
  waves: optional(whole),
  drain: optional(shape({ minutes: whole, message: text })),
  window: optional(shape({ days: listOf(whole), from: text, to: text })),
});

const run = {
  id: text,
  customer: text,
  /** Null: it is about something else than an environment. */
  environment: maybeText,
  environmentId: maybeText,
  kind: text,
  title: text,
  state: oneOf(RUN_STATES),
  cause: maybe(oneOf(STOP_CAUSES)),
  steps: whole,
  done: whole,
  failed: whole,
  expectedSeconds: whole,
  /** The window that it works in now or next; null: it works at any time. */
  works: maybe(shape({ from: whole, to: whole })),
  impact: impactSchema,
  actor: text,
  reason: text,
  begunAt: whole,
  endedAt: maybeWhole,
  version: whole,
};
export const runSchema = shape(run);
export type Run = Of<typeof runSchema>;

export const stepSchema = shape({
  id: text,
  /** The kind of resource that it works on, and what it does to it. */
  kind: text,
  action: text,
  subject: text,
  state: oneOf(STEP_STATES),
  needs: listOf(text),
  expectedSeconds: whole,
  attempt: whole,
  says: text,
  /** The last of what it wrote while it worked; empty for what writes nothing. */
  output: text,
  beganAt: maybeWhole,
  endedAt: maybeWhole,
});
export type Step = Of<typeof stepSchema>;

export const runWithStepsSchema = shape({
  ...run,
  atATime: whole,
  failureLimit: whole,
  policy: policySchema,
  /** The version of the intent that undoing goes back to; null: it cannot be undone. */
  undoTo: maybeWhole,
  /** Whether it made its environment: then nothing was before it. */
  madeIt: flag,
  /** The change of the same hosts that undoes it; null: none does. */
  undoneBy: maybe(shape({ kind: text, hosts: listOf(text) })),
  graph: listOf(stepSchema),
});
export type RunWithSteps = Of<typeof runWithStepsSchema>;

const area = 'Runs';

export const runEndpoints = {
  list: endpoint({
    method: 'GET',
    path: '/runs',
    area,
    summary: 'Runs of the customers in your reach, newest first',
    query: listQuery,
    answer: pageOf(runSchema),
  }),
  count: endpoint({
    method: 'GET',
    path: '/runs/count',
    area,
    summary: 'How many runs of the customers in your reach are at work',
    answer: shape({ underWay: whole }),
  }),
  listInside: endpoint({
    method: 'GET',
    path: '/customers/{customer}/runs',
    area,
    summary: "The customer's runs, newest first",
    params: customerParams,
    own: true,
    query: listQuery,
    answer: pageOf(runSchema),
  }),
  read: endpoint({
    method: 'GET',
    path: '/customers/{customer}/runs/{run}',
    area,
    summary: 'One run with all its steps',
    params: runParams,
    own: true,
    answer: runWithStepsSchema,
  }),
  stop: endpoint({
    method: 'POST',
    path: '/customers/{customer}/runs/{run}/stop',
    area,
    summary: 'Stop a run: nothing new begins, what is under way ends',
    params: runParams,
    own: true,
    right: 'run',
    answer: runWithStepsSchema,
  }),
  resume: endpoint({
    method: 'POST',
    path: '/customers/{customer}/runs/{run}/resume',
    area,
    summary: 'Resume a stopped run and try its failed steps again',
    params: runParams,
    own: true,
    right: 'run',
    answer: runWithStepsSchema,
  }),
};
