import Joi from 'joi';
import { STEP_STATES } from '../../../core/runs';
import { getRun, listRuns, resumeRun, stopRun } from '../../runs';
import { customerRoute, ok, paged, operatorRoute, type Route } from '../route';
import {
  customerParams,
  impactShape,
  listOf,
  listQuery,
  maybeText,
  maybeWhole,
  oneOf,
  pageShape,
  policyShape,
  runParams,
  shape,
  text,
  whole,
} from '../shapes';

export const runKeys = {
  id: text,
  customer: text,
  environment: maybeText,
  environmentId: maybeText,
  kind: text,
  title: text,
  state: oneOf('running', 'stopping', 'stopped', 'done'),
  cause: maybeText,
  steps: whole,
  done: whole,
  failed: whole,
  expectedSeconds: whole,
  impact: impactShape,
  actor: text,
  reason: text,
  begunAt: whole,
  endedAt: maybeWhole,
  version: whole,
};

const runShape = shape({
  ...runKeys,
  atATime: whole,
  failureLimit: whole,
  policy: policyShape,
  undoTo: maybeWhole,
  graph: listOf(
    shape({
      id: text,
      kind: text,
      action: text,
      subject: text,
      state: oneOf(...STEP_STATES),
      needs: listOf(Joi.string()),
      expectedSeconds: whole,
      attempt: whole,
      says: text,
      beganAt: maybeWhole,
      endedAt: maybeWhole,
    }),
  ),
});

export const runRoutes: readonly Route[] = [
  operatorRoute({
    method: 'GET',
    path: '/runs',
    area: 'Runs',
    summary: 'Runs of the customers in your reach, newest first',
    query: listQuery,
    answer: pageShape(shape(runKeys)),
    handle: async ({ app, query }, scope) =>
      ok(
        await paged(
          query.limit,
          (limit) => listRuns(app.db, scope, { ...query, limit }),
          (one) => one.id,
        ),
      ),
  }),
  customerRoute({
    method: 'GET',
    path: '/customers/{customer}/runs',
    area: 'Runs',
    summary: "The customer's runs, newest first",
    params: customerParams,
    query: listQuery,
    answer: pageShape(shape(runKeys)),
    handle: async ({ app, query }, scope) =>
      ok(
        await paged(
          query.limit,
          (limit) => listRuns(app.db, scope, { ...query, limit }),
          (one) => one.id,
        ),
      ),
  }),
  customerRoute({
    method: 'GET',
    path: '/customers/{customer}/runs/{run}',
    area: 'Runs',
    summary: 'One run with all its steps',
    params: runParams,
    answer: runShape,
    handle: async ({ app, params }, scope) => {
      const run = await getRun(app.db, scope, params.run);
      return ok(run, { etag: `"${run.version}"` });
    },
  }),
  customerRoute({
    method: 'POST',
    path: '/customers/{customer}/runs/{run}/stop',
    area: 'Runs',
    summary: 'Stop a run: nothing new begins, what is under way ends',
    params: runParams,
    roles: ['engineer', 'lead'],
    answer: runShape,
    work: ({ app, params, version }, scope) => stopRun(app, scope, params.run, version),
    reply: async (_made, { app, params }, scope) => ok(await getRun(app.db, scope, params.run)),
  }),
  customerRoute({
    method: 'POST',
    path: '/customers/{customer}/runs/{run}/resume',
    area: 'Runs',
    summary: 'Resume a stopped run and try its failed steps again',
    params: runParams,
    roles: ['engineer', 'lead'],
    answer: runShape,
    work: ({ app, params, version }, scope) => resumeRun(app, scope, params.run, version),
    reply: async (_made, { app, params }, scope) => ok(await getRun(app.db, scope, params.run)),
  }),
];
