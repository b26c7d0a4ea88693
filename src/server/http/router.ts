import { Hono } from 'hono';
import type Joi from 'joi';
import { enter, requireRight, type DeskScope, type Scope } from '../access';
import type { App } from '../app';
import { DatabaseError } from '../db';
import { OutsideError } from '../outside';
import { notFound, Problem } from '../problem';
import { keptFor } from '../write';
import { readBody } from './body';
import { once, QUESTION_WROTE, requestKey } from './idempotency';
import { problemResponse } from './problem-response';
import { refuseForeign } from './request';
import type { Ask, Reply, Route, Scopes } from './route';
import { unchangedFor, withTag } from './stored';

const BASE = '/api/v1';
/** So many fields that cannot be used are told; the rest only counted. */
const MOST_FAULTS = 20;

/** Answers a request under /api/v1. Never throws: whatever goes wrong becomes problem details. */
export type Api = (request: Request) => Promise<Response>;

/** Who asks, of those who work here and of customers' people. Each throws a `Problem` for those whom it does not know. */
export interface Who {
  readonly operator: (app: App, request: Request) => Promise<Scope>;
  readonly person: (app: App, request: Request) => Promise<DeskScope>;
}

/** The API over a table of routes. */
export function makeApi(app: App, routes: readonly Route[], who: Who): Api {
  const hono = new Hono().basePath(BASE);
  const storedAt = new Map(routes.flatMap(({ path, stored }) => (stored ? [[path, stored] as const] : [])));
  for (const route of routes)
    hono.on(route.method, written(route.path), async ({ req }) => {
      const reply = await serve(app, who, req.raw, route, req.param(), storedAt.get(route.path));
      return reply instanceof Response ? reply : respond(reply);
    });
  for (const [path, methods] of methodsByPath(routes))
    hono.all(written(path), () => {
      const allow = methods.join(', ');
      throw new Problem(405, 'method', `Here one can ${allow}.`, { headers: { allow } });
    });
  hono.notFound(() => problemResponse(notFound('path')));
  hono.onError((error, { req }) => troubled(app, req.raw, req.routePath, error));
  return async (request) => hono.fetch(request);
}

/** A path as Hono writes it. */
const written = (path: string): string => path.replace(/\{(\w+)\}/g, ':$1');

function methodsByPath(routes: readonly Route[]): Map<string, string[]> {
  const byPath = new Map<string, string[]>();
  for (const { path, method } of routes) byPath.set(path, [...(byPath.get(path) ?? []), method]);
  return byPath;
}

/** @param path as it is written in the table of routes: an address may hold a token */
function troubled(app: App, request: Request, path: string, error: Error): Response {
  if (error instanceof Problem) return problemResponse(error);
  if (error instanceof OutsideError)
    return problemResponse(new Problem(503, 'outside', `Something outside does not work: ${error.says}.`));
  if (error instanceof DatabaseError && error.isNobodysName)
    return problemResponse(
      request.method === 'GET'
        ? notFound('name')
        : new Problem(422, 'invalid', 'Some of what was sent holds letters that no name here has.'),
    );
  app.log.error({ path, method: request.method, error: error.stack }, 'broke');
  return problemResponse(
    error instanceof DatabaseError && !error.isOurFault
      ? new Problem(503, 'database', 'The database does not answer. Send it again with the same key.')
      : new Problem(500, 'broken', 'Something broke here. Nothing was half done; try again.'),
  );
}

async function serve(
  app: App,
  asks: Who,
  request: Request,
  route: Route,
  params: Readonly<Record<string, string>>,
  stored: Route['stored'],
): Promise<Reply | Response> {
  if (route.access === 'public') {
    refuseForeign(request);
    const ask = await checkedAsk(app, request, route, params);
    const nobody = { outer: undefined, inner: undefined };
    return route.reply(await route.work(ask, nobody), ask, nobody);
  }
  if (route.access === 'person') {
    const person = await asks.person(app, request);
    const ask = await checkedAsk(app, request, route, params);
    const desk = { ...person, ...keyed(app, ask) };
    const scopes = { outer: undefined, inner: undefined, desk };
    return route.reply(await once(app, desk, () => route.work(ask, scopes)), ask, scopes);
  }
  const who = await asks.operator(app, request);
  if (who.needsFactor === true && route.beforeFactor !== true)
    throw new Problem(
      403,
      'second-factor',
      'Set up your second factor first: everyone here has to have one.',
    );
  // Inside a customer comes first: to those who may not be there, neither their role nor a badly written request tells anything.
  if (route.access === 'customer') await enter(app.db, who, params.customer ?? '', route.own);
  requireRight(who.actor, route.right);
  refuseNarrow(route, who);
  refuseOtherFocus(request, route, params);
  const ask = await checkedAsk(app, request, route, params);
  const asking = { ...who, ...keyed(app, ask) };
  const inside = async (scope: Scope): Promise<Scopes> => ({
    outer: scope,
    inner:
      route.access === 'customer' ? await enter(app.db, scope, params.customer ?? '', route.own) : undefined,
  });
  const scopes = await inside(asking);
  const unchanged = unchangedFor(route, ask, scopes);
  const writing = unchanged ? await inside({ ...asking, unchanged }) : scopes;
  const made = await once(app, asking, () => route.work(ask, writing));
  if (route.changesNothing === true && asking.request && keptFor(asking.request) !== undefined)
    app.log.error({ path: route.path }, QUESTION_WROTE);
  const reply = await route.reply(made, ask, scopes);
  return stored ? withTag(app, stored, ask, scopes, reply) : reply;
}

/** The request's key, for what is written. */
function keyed({ sealing }: App, { request, body }: Ask): Pick<Scope, 'request'> {
  const key = request.method === 'GET' ? undefined : requestKey(request, body, sealing);
  return key ? { request: key } : {};
}

/** @throws Problem 403 for who reaches some customers only, or lets a token speak, where that is not enough */
function refuseNarrow(route: Route, { customers, token, isNarrowed }: Scope): void {
  const { everyone, inPerson, right, method, changesNothing } = route;
  const isOwn = right === undefined && method !== 'GET' && changesNothing !== true;
  if (isOwn && isNarrowed === true)
    throw new Problem(403, 'token', 'This token cannot change its operator’s own settings.');
  if (everyone === true && customers)
    throw new Problem(403, 'reach', 'This concerns every customer, and you reach some of them only.');
  if (inPerson === true && token !== undefined)
    throw new Problem(403, 'token', 'No API token may do this. Sign in to do it.');
}

/** What is sent from a customer's page is for that customer, whatever else may be in focus. @throws Problem 409 */
function refuseOtherFocus(
  { headers, method }: Request,
  { access }: Route,
  { customer }: Readonly<Record<string, string>>,
): void {
  const focus = headers.get('x-laager-focus');
  if (method === 'GET' || access !== 'customer' || focus === null || focus === customer) return;
  throw new Problem(
    409,
    'focus',
    `This was sent from the page of ${focus}, and is for ${String(customer)}: nothing was done.`,
  );
}

async function checkedAsk(
  app: App,
  request: Request,
  route: Route,
  params: Readonly<Record<string, string>>,
): Promise<Ask> {
  const query = Object.fromEntries(new URL(request.url).searchParams);
  return {
    app,
    request,
    version: route.stored ? undefined : versionOf(request),
    params: route.params ? checkParams(route.params, params) : params,
    query: route.query ? check(route.query, query, 400) : query,
    body: route.body
      ? check(route.body, await readBody(request, route.requestType, route.mostBytes), 422)
      : undefined,
  };
}

/** The version that `If-Match` names (RFC 9110, section 13.1.1). @throws Problem 400 when it names none of ours */
function versionOf(request: Request): number | undefined {
  const asked = request.headers.get('if-match');
  if (asked === null || asked.trim() === '*') return undefined;
  const version = /^"?(\d{1,15})"?$/.exec(asked.trim())?.[1];
  if (version === undefined)
    throw new Problem(400, 'if-match', 'If-Match takes one version as an ETag tells it, like "3".');
  return Number(version);
}

/** A path that cannot be is a path that is not there. */
function checkParams(schema: Joi.AnySchema, params: unknown): unknown {
  const { error, value } = schema.validate(params) as { error?: Joi.ValidationError; value: unknown };
  if (error) throw notFound('path');
  return value;
}

function check(schema: Joi.AnySchema, given: unknown, status: 400 | 422): unknown {
  const { error, value } = schema.validate(given, { abortEarly: false, errors: { label: false } }) as {
    error?: Joi.ValidationError;
    value: unknown;
  };
  if (!error) return value;
  const { details } = error;
  const fields = Object.fromEntries(
    details.slice(0, MOST_FAULTS).map((detail) => [detail.path.join('.') || 'body', detail.message]),
  );
  const more = details.length - MOST_FAULTS;
  const says = `Some of what was sent cannot be used${more > 0 ? `, and ${more} more` : ''}.`;
  throw new Problem(status, 'invalid', says, { fields });
}

function respond({ status, body, headers }: Reply): Response {
  const base = { 'cache-control': 'no-store', ...headers };
  if (body === undefined) return new Response(null, { status, headers: base });
  return Response.json(body, { status, headers: base });
}
