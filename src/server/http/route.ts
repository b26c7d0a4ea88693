import type Joi from 'joi';
import type { CustomerScope, Role, Scope } from '../access';
import type { App } from '../app';

export type Method = 'GET' | 'POST' | 'PUT' | 'DELETE';

/** What a handler is given: everything checked, and the scope in which it works. */
export interface Ask<Params, Query, Body> {
  readonly app: App;
  readonly params: Params;
  readonly query: Query;
  readonly body: Body;
  readonly request: Request;
  /** The `If-Match` header's version, when one was sent. */
  readonly version: number | undefined;
}

export interface Reply {
  readonly status: number;
  readonly body?: unknown;
  readonly headers?: Readonly<Record<string, string>>;
}

interface Common<Params, Query, Body> {
  readonly method: Method;
  /** Under /api/v1, with parameters in braces. */
  readonly path: string;
  readonly summary: string;
  readonly area: string;
  readonly params?: Joi.ObjectSchema<Params>;
  readonly query?: Joi.ObjectSchema<Query>;
  readonly body?: Joi.Schema<Body>;
  /** What an answer of the good status holds; undefined: nothing, or not JSON. */
  readonly answer?: Joi.Schema;
  readonly good?: number;
  /** Another media type than JSON, for what is sent or answered. */
  readonly sends?: string;
  readonly answers?: string;
  /** Who may; undefined: every operator. */
  readonly roles?: readonly Role[];
}

/** A route for anyone, for an operator, or inside one customer: the third's path has `{customer}`. */
export type Route =
  | (Common<unknown, unknown, unknown> & {
      readonly inside: 'nothing';
      readonly handle: (ask: Ask<unknown, unknown, unknown>) => Promise<Reply | Response>;
    })
  | (Common<unknown, unknown, unknown> & {
      readonly inside: 'reach';
      readonly handle: (ask: Ask<unknown, unknown, unknown>, scope: Scope) => Promise<Reply | Response>;
    })
  | (Common<unknown, unknown, unknown> & {
      readonly inside: 'customer';
      readonly handle: (
        ask: Ask<unknown, unknown, unknown>,
        scope: CustomerScope,
        outer: Scope,
      ) => Promise<Reply | Response>;
    });

type Typed<Params, Query, Body> = Common<Params, Query, Body>;

/* The router checks params, query and body against the very schemas that give them their types; so the three functions
   below may hand the handler to the table as one that takes what has been checked. */

export function open<Params, Query, Body>(
  route: Typed<Params, Query, Body> & {
    handle: (ask: Ask<Params, Query, Body>) => Promise<Reply | Response>;
  },
): Route {
  return { ...route, inside: 'nothing' } as Route;
}

export function within<Params, Query, Body>(
  route: Typed<Params, Query, Body> & {
    handle: (ask: Ask<Params, Query, Body>, scope: Scope) => Promise<Reply | Response>;
  },
): Route {
  return { ...route, inside: 'reach' } as Route;
}

export function inside<Params, Query, Body>(
  route: Typed<Params, Query, Body> & {
    handle: (ask: Ask<Params, Query, Body>, scope: CustomerScope, outer: Scope) => Promise<Reply | Response>;
  },
): Route {
  return { ...route, inside: 'customer' } as Route;
}

export const ok = (body: unknown, headers?: Readonly<Record<string, string>>): Reply =>
  headers ? { status: 200, body, headers } : { status: 200, body };
export const created = (body: unknown, location: string): Reply => ({
  status: 201,
  body,
  headers: { location },
});
export const nothing = (headers?: Readonly<Record<string, string>>): Reply =>
  headers ? { status: 204, headers } : { status: 204 };

export interface Page<Entry> {
  readonly entries: readonly Entry[];
  readonly next: string | null;
}

/** A page of a list: one more than asked for is read, to know whether there are more. */
export async function paged<Entry>(
  limit: number,
  read: (limit: number) => Promise<readonly Entry[]>,
  cursor: (entry: Entry) => string,
): Promise<Page<Entry>> {
  const found = await read(limit + 1);
  const entries = found.slice(0, limit);
  const last = entries.at(-1);
  return { entries, next: found.length > limit && last ? cursor(last) : null };
}
