import type Joi from 'joi';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { makeCatalogue } from '../../src/server/catalogue';
import { routesOf } from '../../src/server/rooms';
import type { Route } from '../../src/server/http';
import { openWorld, provisionFor, type Made, type World } from './setup/world';

/** What no name here holds: foreign letters, broken ones, and what other languages would run. */
const TEXTS = ['ä', '\u212a', 'svĝ', '\ud83d\udca5', '\u0000', 'ＳＶＧ', "' OR 1=1 --", '../..', '__proto__'];
const KEYS = ['__proto__', 'constructor', 'prototype', 'a.__proto__.b'];

interface Described {
  readonly type?: string;
  readonly keys?: Readonly<Record<string, Described>>;
  readonly items?: readonly Described[];
  readonly allow?: readonly unknown[];
  readonly flags?: { readonly only?: boolean };
  readonly matches?: readonly { readonly schema?: Described }[];
}

/** A body of a schema's shape, in which every text is the given one. */
function shaped(schema: Described, text: string): unknown {
  if (schema.flags?.only === true) return (schema.allow ?? []).find((one) => typeof one !== 'object') ?? text;
  switch (schema.type) {
    case 'object':
      return Object.fromEntries(
        Object.entries(schema.keys ?? {}).map(([key, inner]) => [key, shaped(inner, text)]),
      );
    case 'array':
      return (schema.items ?? []).map((inner) => shaped(inner, text));
    case 'number':
      return 1;
    case 'boolean':
      return true;
    case 'alternatives':
      return shaped(schema.matches?.[0]?.schema ?? {}, text);
    default:
      return text;
  }
}

const describedOf = (schema: Joi.AnySchema | undefined): Described => (schema?.describe() ?? {}) as Described;

/** Every way into the API, asked with what nobody should send: it answers, and says what is wrong. */
describe('whatever is sent', { timeout: 300_000 }, () => {
  let world: World;
  let fps: Made;
  beforeAll(async () => {
    world = await openWorld('hostile');
    fps = await provisionFor(world, 'FPS', 'office', 4, 'KQ');
  });
  afterAll(() => world.close());

  const routes = routesOf(makeCatalogue());

  const ask = async (
    route: Route,
    path: string,
    body: unknown,
    query: Readonly<Record<string, string>> = {},
  ): Promise<{ status: number; type: string }> => {
    const at = new URL(`http://laager.test/api/v1${path}`);
    for (const [key, value] of Object.entries(query)) at.searchParams.set(key, value);
    const type = route.requestType ?? 'application/json';
    const response = await world.api.answer(
      new Request(at, {
        method: route.method,
        headers: {
          origin: 'http://laager.test',
          host: 'laager.test',
          ...(route.access === 'public' ? {} : { authorization: `Bearer ${world.tokens.bram}` }),
          ...(body === undefined ? {} : { 'content-type': type }),
        },
        ...(body === undefined ? {} : { body: typeof body === 'string' ? body : JSON.stringify(body) }),
      }),
    );
    // A stream of live events has no end; leaving it at once must not end the process.
    await response.body?.cancel();
    return { status: response.status, type: response.headers.get('content-type') ?? '' };
  };
  const filled = (path: string, text: string, inside: boolean): string =>
    path.replace(/\{(\w+)\}/g, (_whole, name: string) =>
      inside && name === 'customer'
        ? 'FPS'
        : inside && name === 'environment'
          ? fps.environment
          : encodeURIComponent(text),
    );

  it('is answered: no route breaks, none blames the database', async () => {
    const broke: string[] = [];
    let asked = 0;
    for (const route of routes)
      for (const text of TEXTS)
        for (const inside of [true, false]) {
          const path = filled(route.path, text, inside);
          const isText = route.requestType !== undefined && route.requestType !== 'application/json';
          const body = !route.body ? undefined : isText ? text : shaped(describedOf(route.body), text);
          const keys = Object.keys(describedOf(route.query as Joi.AnySchema | undefined).keys ?? {});
          const { status, type } = await ask(
            route,
            path,
            body,
            Object.fromEntries(keys.map((key) => [key, text])),
          );
          asked += 1;
          if (status >= 500 || (status >= 400 && !type.includes('json')))
            broke.push(`${status} ${route.method} ${route.path} with ${JSON.stringify(text)} ${type}`);
        }
    expect(broke).toEqual([]);
    expect(asked).toBeGreaterThan(1_500);
  });

  it('reaches no prototype, in whichever body', async () => {
    const taken: string[] = [];
    for (const route of routes.filter(
      ({ body, requestType }) => body && (requestType ?? 'application/json') === 'application/json',
    ))
      for (const key of KEYS) {
        const whole = JSON.stringify(shaped(describedOf(route.body), 'x'));
        const inner = `{"${key}":{"customer":{"id":"x"},"needsFactor":true}}`;
        const body =
          whole === '{}' || !whole.startsWith('{') ? inner : `${whole.slice(0, -1)},"more":${inner}}`;
        const { status } = await ask(route, filled(route.path, 'x', true), body);
        if (status < 400) taken.push(`${route.method} ${route.path} ${key}`);
      }
    expect(taken).toEqual([]);
    expect(Object.getOwnPropertyNames(Object.prototype).sort()).toEqual(
      [
        '__defineGetter__',
        '__defineSetter__',
        '__lookupGetter__',
        '__lookupSetter__',
        '__proto__',
        'constructor',
        'hasOwnProperty',
        'isPrototypeOf',
        'propertyIsEnumerable',
        'toLocaleString',
        'toString',
        'valueOf',
      ].sort(),
    );
  });
});
