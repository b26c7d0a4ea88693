import type Joi from 'joi';
import { enter, requireRole } from '../access';
import type { App } from '../app';
import { notFound, Problem } from '../problem';
import type { Catalogue } from '../catalogue';
import { DatabaseError } from '../db';
import { OutsideError } from '../outside';
import { once, requestKey } from './idempotency';
import { problemResponse } from './problem-response';
import { readText } from './request';
import type { Ask, Reply, Route } from './route';
import { routesOf } from './table';
import { refuseForeign, whoAsks } from './who';

const BASE = '/api/v1';
const MOST_BYTES = 4_000_000;

interface Match {
  readonly route: Route;
  readonly params: Readonly<Record<string, string>>;
}

interface Compiled {
  readonly route: Route;
  readonly names: readonly string[];
  readonly pattern: RegExp;
}

const compiled = new WeakMap<Catalogue, readonly Compiled[]>();

/** The table of routes, ready to be looked up; it derives from the catalogue. */
function tableOf(catalogue: Catalogue): readonly Compiled[] {
  const known = compiled.get(catalogue);
  if (known) return known;
  const table = routesOf(catalogue).map((route) => ({
    route,
    names: [...route.path.matchAll(/\{(\w+)\}/g)].map((match) => match[1] ?? ''),
    pattern: new RegExp(`^${route.path.replace(/\./g, '\\.').replace(/\{\w+\}/g, '([^/]+)')}$`),
  }));
  compiled.set(catalogue, table);
  return table;
}

/** Answers a request under /api/v1. Never throws: whatever goes wrong becomes problem details. */
export async function answer(app: App, request: Request): Promise<Response> {
  const path = new URL(request.url).pathname.slice(BASE.length);
  try {
    const { route, params } = find(app.catalogue, request.method, path);
    const reply = await serve(app, request, route, params);
    return reply instanceof Response ? reply : respond(reply);
  } catch (error) {
    if (error instanceof Problem) return problemResponse(error);
    if (error instanceof OutsideError)
      return problemResponse(new Problem(503, 'outside', `Something outside does not work: ${error.says}.`));
    app.log.error(
      { path, method: request.method, error: error instanceof Error ? error.stack : String(error) },
      'broke',
    );
    return problemResponse(
      error instanceof DatabaseError
        ? new Problem(503, 'database', 'The database does not answer. Send it again with the same key.')
        : new Problem(500, 'broken', 'Something broke here. Nothing was half done; try again.'),
    );
  }
}

function find(catalogue: Catalogue, method: string, path: string): Match {
  const here = tableOf(catalogue).flatMap(({ route, names, pattern }) => {
    const match = pattern.exec(path);
    return match
      ? [{ route, params: Object.fromEntries(names.map((name, i) => [name, decoded(match[i + 1])])) }]
      : [];
  });
  const found = here.find(({ route }) => route.method === method);
  if (found) return found;
  if (here.length === 0) throw notFound('path');
  const allow = here.map(({ route }) => route.method).join(', ');
  throw new Problem(405, 'method', `Here one can ${allow}.`, { headers: { allow } });
}

function decoded(part: string | undefined): string {
  try {
    return decodeURIComponent(part ?? '');
  } catch {
    throw notFound('path');
  }
}

async function serve(
  app: App,
  request: Request,
  route: Route,
  params: Readonly<Record<string, string>>,
): Promise<Reply | Response> {
  if (route.access === 'public') {
    refuseForeign(request);
    const ask = await checkedAsk(app, request, route, params);
    const nobody = { outer: undefined, inner: undefined };
    return route.reply(await route.work(ask, nobody), ask, nobody);
  }
  const who = await whoAsks(app, request);
  if (route.roles) requireRole(who.actor, route.roles);
  // Inside a customer comes first: to those who may not be there, not even a badly written request tells anything.
  if (route.access === 'customer') await enter(app.db, who, params.customer ?? '');
  const ask = await checkedAsk(app, request, route, params);
  const key = request.method === 'GET' ? undefined : requestKey(request, ask.body, app.secretKey);
  const outer = key ? { ...who, request: key } : who;
  const inner = route.access === 'customer' ? await enter(app.db, outer, params.customer ?? '') : undefined;
  const scopes = { outer, inner };
  return route.reply(await once(app, outer, () => route.work(ask, scopes)), ask, scopes);
}

async function checkedAsk(
  app: App,
  request: Request,
  route: Route,
  params: Readonly<Record<string, string>>,
): Promise<Ask<unknown, unknown, unknown>> {
  const query = Object.fromEntries(new URL(request.url).searchParams);
  const version = /^"?(\d+)"?$/.exec(request.headers.get('if-match') ?? '')?.[1];
  return {
    app,
    request,
    version: version === undefined ? undefined : Number(version),
    params: route.params ? checkParams(route.params, params) : params,
    query: route.query ? check(route.query, query) : query,
    body: route.body ? check(route.body, await readBody(request, route.requestType)) : undefined,
  };
}

/** A path that cannot be is a path that is not there. */
function checkParams(schema: Joi.Schema, params: unknown): unknown {
  const { error, value } = schema.validate(params) as { error?: Joi.ValidationError; value: unknown };
  if (error) throw notFound('path');
  return value;
}

function check(schema: Joi.Schema, given: unknown): unknown {
  const { error, value } = schema.validate(given, { abortEarly: false, errors: { label: false } }) as {
    error?: Joi.ValidationError;
    value: unknown;
  };
  if (!error) return value;
  const fields = Object.fromEntries(
    error.details.map((detail) => [detail.path.join('.') || 'body', detail.message]),
  );
  throw new Problem(422, 'invalid', 'Some of what was sent cannot be used.', { fields });
}

async function readBody(request: Request, sends = 'application/json'): Promise<unknown> {
  const type = request.headers.get('content-type')?.split(';')[0]?.trim();
  if (type !== sends) throw new Problem(415, 'media-type', `Send ${sends}.`);
  const text = await readText(request, MOST_BYTES);
  if (sends !== 'application/json') return text;
  try {
    return JSON.parse(text) as unknown;
  } catch {
    throw new Problem(400, 'json', 'The body is not JSON.');
  }
}

function respond({ status, body, headers }: Reply): Response {
  const base = { 'cache-control': 'no-store', ...headers };
  if (body === undefined) return new Response(null, { status, headers: base });
  return new Response(JSON.stringify(body), {
    status,
    headers: { 'content-type': 'application/json', ...base },
  });
}
