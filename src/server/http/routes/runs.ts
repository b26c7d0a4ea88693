import Joi from 'joi';
import { getRun, listRuns, resumeRun, stopRun } from '../../runs';
import { inside, ok, paged, within, type Route } from '../route';
import {
  customerParams,
  impactShape,
  listOf,
  listQuery,
  maybeText,
  maybeWhole,
  oneOf,
  pageShape,
  runParams,
  shape,
  text,
  whole,
} from '../shapes';

const runKeys = {
  id: text,
  customer: text,
  environment: text,
  environmentId: text,
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
  graph: listOf(
    shape({
      id: text,
      kind: text,
      subject: text,
      state: oneOf('waiting', 'working', 'done', 'failed'),
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
  within({
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
  inside({
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
  inside({
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
  inside({
    method: 'POST',
    path: '/customers/{customer}/runs/{run}/stop',
    area: 'Runs',
    summary: 'Stop a run: nothing new begins, what is under way ends',
    params: runParams,
    roles: ['engineer', 'lead'],
    answer: runShape,
    handle: async ({ app, params, version }, scope) => {
      await stopRun(app, scope, params.run, version);
      return ok(await getRun(app.db, scope, params.run));
    },
  }),
  inside({
    method: 'POST',
    path: '/customers/{customer}/runs/{run}/resume',
    area: 'Runs',
    summary: 'Resume a stopped run and try its failed steps again',
    params: runParams,
    roles: ['engineer', 'lead'],
    answer: runShape,
    handle: async ({ app, params, version }, scope) => {
      await resumeRun(app, scope, params.run, version);
      return ok(await getRun(app.db, scope, params.run));
    },
  }),
];
