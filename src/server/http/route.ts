import type Joi from 'joi';
import { accessOf, type Access, type Endpoint, type Of, type Question } from '../../contract';
import type { CustomerScope, DeskScope, Scope } from '../access';
import type { App } from '../app';
import type { Connection } from '../db';

/** What a handler is given: everything checked, and the request as it came. */
export interface Ask<Params = unknown, Query = unknown, Body = unknown> {
  readonly app: App;
  readonly params: Params;
  readonly query: Query;
  readonly body: Body;
  readonly request: Request;
  /** The `If-Match` header's version, when one was sent. */
  readonly version: number | undefined;
}

/** An answer; its body is what the endpoint says that it is. */
export interface Reply<Answer = unknown> {
  readonly status: number;
  readonly body?: Answer;
  readonly headers?: Readonly<Record<string, string>>;
}

/** Who asks: outside of any customer, and inside the one that the path names. */
export interface Scopes {
  readonly outer: Scope | undefined;
  readonly inner: CustomerScope | undefined;
  /** One of a customer's people, at their own desk. */
  readonly desk?: DeskScope;
}

/** A route as the table holds it. What it made is answered from; kept with its key, it is answered from again. */
export interface Route extends Endpoint {
  readonly access: Access;
  readonly work: (ask: Ask, scopes: Scopes) => Promise<unknown>;
  readonly reply: (made: unknown, ask: Ask, scopes: Scopes) => Promise<Reply | Response>;
  /** The stored values that it replaces, by the names of its body: `If-Match` is compared with them. No secrets. */
  readonly stored?: (ask: Ask, db: Connection, scopes: Scopes) => Promise<unknown>;
}

/** In whose scope a handler works: nobody's, who asks, or inside the customer that the path names. */
type Who<Path extends string> = Path extends `/desk${string}`
  ? [desk: DeskScope]
  : Path extends `${string}{customer}${string}`
    ? [inner: CustomerScope, outer: Scope]
    : [scope: Scope];
type Asked<Params, Query, Body> = Ask<Params, Query, Body extends Joi.AnySchema ? Of<Body> : undefined>;
type Answered<Answer> = Reply<Answer> | Response | Promise<Reply<Answer> | Response>;

/* The router checks params, query and body against the very schemas that give them their types, gives each route the
   scopes that its access asks for, and what is kept of a request is what its own `work` made; so the functions below may
   hand all of that to the table as unknown. */

/** What only looks. */
type Looking<Path extends string, Params, Query, Body extends Joi.AnySchema | undefined, Answer> =
  Endpoint<Path, Params, Query, Body, Answer, 'GET'> | Question<Path, Params, Query, Body, Answer>;

/** A route that changes nothing: answers at once. */
export function reads<Path extends string, Params, Query, Body extends Joi.AnySchema | undefined, Answer>(
  endpoint: Looking<Path, Params, Query, Body, Answer>,
  handle: (ask: Asked<Params, Query, Body>, ...who: Who<Path>) => Answered<Answer>,
): Route {
  const work = async (ask: Asked<Params, Query, Body>, ...who: Who<Path>) => handle(ask, ...who);
  return writes(endpoint, work, <Made>(made: Made, ..._rest: unknown[]): Made => made);
}

/**
 * A route that writes: what `work` made is kept with the request's key, in the transaction that made it, and answered from.
 * @param stored reads what it replaces, by the names of its body, so that nobody replaces what they have not seen
 */
export function writes<
  Path extends string,
  Params,
  Query,
  Body extends Joi.AnySchema | undefined,
  Answer,
  Made,
>(
  endpoint: Endpoint<Path, Params, Query, Body, Answer>,
  work: (ask: Asked<Params, Query, Body>, ...who: Who<Path>) => Promise<Made>,
  reply: (made: Made, ask: Asked<Params, Query, Body>, ...who: Who<Path>) => Answered<Answer>,
  stored?: (ask: Asked<Params, Query, Body>, db: Connection, ...who: Who<Path>) => Promise<unknown>,
): Route {
  const access = accessOf(endpoint);
  const who = (scopes: Scopes): Who<Path> => whoOf(access, scopes) as unknown as Who<Path>;
  return {
    ...(endpoint as Endpoint),
    access,
    work: (ask, scopes) => work(ask as Asked<Params, Query, Body>, ...who(scopes)),
    reply: async (made, ask, scopes) =>
      reply(made as Made, ask as Asked<Params, Query, Body>, ...who(scopes)),
    ...(stored
      ? { stored: (ask, db, scopes) => stored(ask as Asked<Params, Query, Body>, db, ...who(scopes)) }
      : {}),
  };
}

/** A route that needs no sign-in. Nobody is known yet whose key it could be: sent twice, it is done twice. */
export const publicRoute = <Params, Query, Body extends Joi.AnySchema | undefined, Answer>(
  endpoint: Endpoint<string, Params, Query, Body, Answer>,
  handle: (ask: Asked<Params, Query, Body>) => Answered<Answer>,
): Route => ({
  ...(endpoint as Endpoint),
  access: accessOf(endpoint),
  work: async (ask) => handle(ask as Asked<Params, Query, Body>),
  reply: async (made) => made as Reply | Response,
});

function whoOf(access: Access, { outer, inner, desk }: Scopes): readonly unknown[] {
  if (access === 'person' && desk) return [desk];
  if (!outer || (access === 'customer' && !inner))
    throw new Error('a route was asked without the scope that it needs');
  return inner ? [inner, outer] : [outer];
}

export const ok = <Answer>(body: Answer, headers?: Readonly<Record<string, string>>): Reply<Answer> =>
  headers ? { status: 200, body, headers } : { status: 200, body };
export const created = <Answer>(body: Answer, location: string): Reply<Answer> => ({
  status: 201,
  body,
  headers: { location },
});
export const nothing = (headers?: Readonly<Record<string, string>>): Reply<undefined> =>
  headers ? { status: 204, headers } : { status: 204 };

/** What can be checked by version, told with an ETag (RFC 9110). */
export const versioned = <Answer extends { readonly version: number }>(body: Answer): Reply<Answer> =>
  ok(body, { etag: `"${body.version}"` });
