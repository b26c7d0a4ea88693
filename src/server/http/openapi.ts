import type Joi from 'joi';
import parse from 'joi-to-json';
import type { Route } from './route';

type Json = Record<string, unknown>;

const schemaOf = (schema: Joi.Schema): Json => withFixedBounds(parse(schema, 'open-api-3.1')) as Json;

const BOUNDS: ReadonlySet<string> = new Set([
  'minimum',
  'maximum',
  'exclusiveMinimum',
  'exclusiveMaximum',
  'multipleOf',
]);

/** Without bounds that are another field's value, which JSON Schema cannot say: the server checks them. */
function withFixedBounds(schema: unknown): unknown {
  if (Array.isArray(schema)) return schema.map(withFixedBounds);
  if (typeof schema !== 'object' || schema === null) return schema;
  return Object.fromEntries(
    Object.entries(schema).flatMap(([key, value]) =>
      BOUNDS.has(key) && typeof value === 'object' && !isSchema(value) ? [] : [[key, withFixedBounds(value)]],
    ),
  );
}

/** A property may be called like a bound: then it is a schema of its own. */
const isSchema = (value: unknown): boolean =>
  typeof value === 'object' && value !== null && ('type' in value || 'anyOf' in value || '$ref' in value);

const PROBLEM = {
  description: 'Problem details (RFC 9457)',
  content: { 'application/problem+json': { schema: { $ref: '#/components/schemas/Problem' } } },
};

/** The OpenAPI 3.1 document of a table of routes, made from the schemas that check the requests. */
export function openApi(routes: readonly Route[]): Json {
  const paths: Record<string, Json> = {};
  for (const route of routes)
    paths[route.path] = { ...paths[route.path], [route.method.toLowerCase()]: operation(route) };
  return {
    openapi: '3.1.0',
    info: {
      title: 'Laager',
      version: '1',
      description:
        'Hosted desktops for many customers, each kept apart. What the interface does goes through here. Lists are paged: ' +
        'send `next` back as `after`. Writes take `Idempotency-Key`; stopping, resuming and whatever replaces stored values take `If-Match`; a change is begun with the fingerprint of its proposal.',
    },
    servers: [{ url: '/api/v1' }],
    security: [{ token: [] }, { session: [] }],
    paths,
    components: {
      securitySchemes: {
        token: { type: 'http', scheme: 'bearer' },
        session: { type: 'apiKey', in: 'cookie', name: 'laager_session' },
      },
      schemas: {
        Problem: {
          type: 'object',
          required: ['type', 'title', 'status', 'detail'],
          properties: {
            type: { type: 'string' },
            title: { type: 'string' },
            status: { type: 'integer' },
            detail: { type: 'string' },
            fields: { type: 'object', additionalProperties: { type: 'string' } },
          },
        },
      },
    },
  };
}

function operation(route: Route): Json {
  const status = route.status ?? 200;
  return {
    tags: [route.area],
    summary: route.summary,
    operationId: nameOf(route),
    ...(route.access === 'public' ? { security: [] } : {}),
    parameters: [...inPath(route), ...inQuery(route), ...inHeader(route)],
    ...(route.body
      ? {
          requestBody: {
            required: true,
            content: { [route.requestType ?? 'application/json']: { schema: schemaOf(route.body) } },
          },
        }
      : {}),
    responses: {
      [status]: { description: 'Done', ...answerContent(route) },
      default: PROBLEM,
    },
  };
}

function answerContent(route: Route): Json {
  if (route.responseType) return { content: { [route.responseType]: { schema: { type: 'string' } } } };
  return route.answer ? { content: { 'application/json': { schema: schemaOf(route.answer) } } } : {};
}

const nameOf = (route: Route): string =>
  `${route.method.toLowerCase()}${route.path
    .split(/[/.]/)
    .filter((part) => part !== '')
    .map((part) => {
      const word = part.replace(/[{}]/g, '');
      return `${part.startsWith('{') ? 'Of' : ''}${word.charAt(0).toUpperCase()}${word.slice(1)}`;
    })
    .join('')}`;

const inPath = (route: Route): Json[] =>
  [...route.path.matchAll(/\{(\w+)\}/g)].map(([, name]) => ({
    name,
    in: 'path',
    required: true,
    schema: { type: 'string' },
  }));

function inQuery(route: Route): Json[] {
  if (!route.query) return [];
  const { properties = {}, required = [] } = schemaOf(route.query) as {
    properties?: Record<string, Json>;
    required?: string[];
  };
  return Object.entries(properties).map(([name, schema]) => ({
    name,
    in: 'query',
    required: required.includes(name),
    schema,
  }));
}

const IF_MATCH = {
  name: 'If-Match',
  in: 'header',
  required: false,
  description:
    'The ETag of what is replaced, from the answer to the last write or to a 412. Where something else is stored by now, nothing is written: 412, with it under `current`.',
  schema: { type: 'string', maxLength: 90 },
};

const inHeader = (route: Route): Json[] =>
  route.method === 'GET' || route.access === 'public' || route.changesNothing === true
    ? []
    : [
        { name: 'Idempotency-Key', in: 'header', required: false, schema: { type: 'string', maxLength: 80 } },
        ...(route.stored ? [IF_MATCH] : []),
      ];
