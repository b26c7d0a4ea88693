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
  readonly status?: number;
  /** Another media type than JSON, for what is sent or answered. */
  readonly requestType?: string;
  readonly responseType?: string;
  /** Who may; undefined: every operator. */
  readonly roles?: readonly Role[];
}

type Answer = Promise<Reply | Response>;

/** A route as the table holds it. What it made is answered from; kept with its key, it is answered from again. */
export interface Route extends Common<unknown, unknown, unknown> {
  readonly access: 'public' | 'operator' | 'customer';
  readonly work: (ask: Ask<unknown, unknown, unknown>, scopes: Scopes) => Promise<unknown>;
  readonly reply: (made: unknown, ask: Ask<unknown, unknown, unknown>, scopes: Scopes) => Answer;
}

/** Who asks: outside of any customer, and inside the one that the path names. */
export interface Scopes {
  readonly outer: Scope | undefined;
  readonly inner: CustomerScope | undefined;
}

/** Reads, or does what needs no key: answers at once. */
interface Handled<Params, Query, Body, Who extends readonly unknown[]> extends Common<Params, Query, Body> {
  readonly handle: (ask: Ask<Params, Query, Body>, ...who: Who) => Answer;
}

/** Writes: what `work` made is kept with the request's key, in the transaction that made it, and answered from. */
interface Worked<Params, Query, Body, Made, Who extends readonly unknown[]> extends Common<
  Params,
  Query,
  Body
> {
  readonly work: (ask: Ask<Params, Query, Body>, ...who: Who) => Promise<Made>;
  readonly reply: (
    made: Made,
    ask: Ask<Params, Query, Body>,
    ...who: Who
  ) => Reply | Response | Promise<Reply | Response>;
}

/* The router checks params, query and body against the very schemas that give them their types, and what is kept of a
   request is what its own `work` made; so the functions below may hand both to the table as unknown. */

function routeOf<Params, Query, Body, Made, Who extends readonly unknown[]>(
  access: Route['access'],
  route: Handled<Params, Query, Body, Who> | Worked<Params, Query, Body, Made, Who>,
  who: (scopes: Scopes) => Who,
): Route {
  const worked: Worked<Params, Query, Body, unknown, Who> =
    'handle' in route ? handled(route) : (route as Worked<Params, Query, Body, unknown, Who>);
  const { work, reply, ...common } = worked;
  return {
    ...(common as Common<unknown, unknown, unknown>),
    access,
    work: (ask, scopes) => work(ask as Ask<Params, Query, Body>, ...who(scopes)),
    reply: async (made, ask, scopes) => reply(made, ask as Ask<Params, Query, Body>, ...who(scopes)),
  };
}

function handled<Params, Query, Body, Who extends readonly unknown[]>({
  handle,
  ...common
}: Handled<Params, Query, Body, Who>): Worked<Params, Query, Body, unknown, Who> {
  const reply = (made: unknown, ..._rest: unknown[]): Reply | Response => made as Reply | Response;
  return { ...common, work: handle, reply };
}

const missing = (): never => {
  throw new Error('a route was asked without the scope that it needs');
};

/** A route for anyone. */
export const publicRoute = <Params, Query, Body>(route: Handled<Params, Query, Body, []>): Route =>
  routeOf('public', route, (): [] => []);

/** A route for operators, across the customers in their reach. */
export const operatorRoute = <Params, Query, Body, Made = never>(
  route: Handled<Params, Query, Body, [Scope]> | Worked<Params, Query, Body, Made, [Scope]>,
): Route => routeOf('operator', route, ({ outer }): [Scope] => [outer ?? missing()]);

/** A route inside one customer: its path has `{customer}`. */
export const customerRoute = <Params, Query, Body, Made = never>(
  route:
    | Handled<Params, Query, Body, [CustomerScope, Scope]>
    | Worked<Params, Query, Body, Made, [CustomerScope, Scope]>,
): Route =>
  routeOf('customer', route, ({ inner, outer }): [CustomerScope, Scope] => [
    inner ?? missing(),
    outer ?? missing(),
  ]);

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
