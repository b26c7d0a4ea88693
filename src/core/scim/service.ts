import { describing } from './describing';
import { faultOfValue } from '../untrusted';
import { filterOf } from './filter';
import { written } from './names';
import { patched } from './patch';
import { BULK, LIST, MOST_DEPTH, MOST_ENTRIES, MOST_ON_A_PAGE, ScimRefusal } from './resource';

export type ScimKind = 'User' | 'Group';

/** A user or a group as it goes over the wire. */
export type ScimResource = Readonly<Record<string, unknown>> & { readonly id: string };

export interface ScimSlice {
  /** Only those changed then or later; undefined: all. */
  readonly since?: number | undefined;
  /** Only the one of this name, whatever its case. */
  readonly name?: string | undefined;
  /** How many are passed over, and how many are wanted; left out: all of them. */
  readonly from?: number;
  readonly count?: number;
}

/** Where users and groups are kept that are served. */
export interface ScimEntries {
  /** The path below which they are. */
  readonly base: string;
  count(kind: ScimKind, slice: ScimSlice): Promise<number>;
  list(kind: ScimKind, slice: ScimSlice): Promise<ScimResource[]>;
  /** @throws ScimRefusal 404 */
  one(kind: ScimKind, id: string): Promise<ScimResource>;
  /** Makes it, or changes it when it is otherwise. @throws ScimRefusal 400, 409 when the name of a user is taken */
  put(kind: ScimKind, resource: ScimResource): Promise<ScimResource>;
  /** Takes it away, and out of every group it is in. @throws ScimRefusal 404 */
  remove(kind: ScimKind, id: string): Promise<void>;
}

export interface ScimRequest {
  readonly method: string;
  /** What is asked for below the base: `Users`, `Bulk`, `Schemas`. */
  readonly path: string;
  /** Which of them; empty: all. */
  readonly id: string;
  readonly query: URLSearchParams;
  readonly header: (name: string) => string | undefined;
  readonly body: Readonly<Record<string, unknown>>;
}

export interface ScimAnswer {
  readonly status: number;
  readonly body?: unknown;
  readonly headers: Readonly<Record<string, string>>;
}

const MOST_AT_ONCE = 1_000;
const TYPE = { 'content-type': 'application/scim+json' };

const kindOf = (path: string): ScimKind | undefined =>
  path === 'Users' ? 'User' : path === 'Groups' ? 'Group' : undefined;

/**
 * Serves SCIM 2.0 (RFC 7644) over entries, whoever keeps them. What is refused is an answer as well.
 * @param newId gives a new id each time
 */
export async function answerScim(
  entries: ScimEntries,
  request: ScimRequest,
  newId: () => string,
): Promise<ScimAnswer> {
  try {
    return await answered(entries, request, newId);
  } catch (error) {
    if (!(error instanceof ScimRefusal)) throw error;
    return refusedScim(error);
  }
}

export const refusedScim = (refusal: ScimRefusal): ScimAnswer => ({
  status: refusal.status,
  body: refusal.body,
  headers: TYPE,
});

async function answered(
  entries: ScimEntries,
  request: ScimRequest,
  newId: () => string,
): Promise<ScimAnswer> {
  const { method, path, id, header } = request;
  const fault = faultOfValue(request.body, { depth: MOST_DEPTH, entries: MOST_ENTRIES });
  if (fault !== undefined) throw new ScimRefusal(400, `The request ${fault}.`, 'invalidValue');
  const body = written(request.body) as ScimRequest['body'];
  const kind = kindOf(path);
  if (!kind) {
    if (method === 'POST' && path === 'Bulk') return bulk(request, entries, newId);
    const described = describing(MOST_AT_ONCE)[path];
    if (method === 'GET' && id === '' && described) return { status: 200, body: described, headers: TYPE };
    throw new ScimRefusal(404, `Nothing is served at ${path}.`);
  }
  if (id === '') {
    if (method === 'GET') return listed(request, entries, kind);
    if (method === 'POST') return shown(await entries.put(kind, { ...body, id: newId() }), 201);
    throw new ScimRefusal(405, `${method} is not for all of them.`);
  }
  switch (method) {
    case 'GET': {
      const found = await entries.one(kind, id);
      return header('if-none-match') === versionOf(found)
        ? { status: 304, headers: { etag: versionOf(found) } }
        : shown(found);
    }
    case 'PUT': {
      const before = await current(request, entries, kind);
      return shown(await entries.put(kind, { ...body, id: before.id }));
    }
    case 'PATCH':
      return shown(await entries.put(kind, patched(await current(request, entries, kind), request.body)));
    case 'DELETE':
      await current(request, entries, kind);
      await entries.remove(kind, id);
      return { status: 204, headers: {} };
    default:
      throw new ScimRefusal(405, `${method} is nothing that is served.`);
  }
}

const versionOf = ({ meta }: ScimResource): string => String((meta as { version: string }).version);

const shown = (resource: ScimResource, status = 200): ScimAnswer => ({
  status,
  body: resource,
  headers: {
    ...TYPE,
    etag: versionOf(resource),
    location: String((resource.meta as { location: string }).location),
  },
});

/** What is to be changed, when it is still as whoever changes it knew it (RFC 7644, section 3.14). */
async function current(
  { id, header }: ScimRequest,
  entries: ScimEntries,
  kind: ScimKind,
): Promise<ScimResource> {
  const found = await entries.one(kind, id);
  const known = header('if-match');
  if (known !== undefined && known !== versionOf(found))
    throw new ScimRefusal(412, 'It has changed since it was read.');
  return found;
}

/** RFC 7644, section 3.4.2: filtered, paged, and with the attributes that were asked for. */
async function listed({ query }: ScimRequest, entries: ScimEntries, kind: ScimKind): Promise<ScimAnswer> {
  const start = Math.max(1, wholeOf(query.get('startIndex'), 1));
  const count = Math.min(MOST_ON_A_PAGE, Math.max(0, wholeOf(query.get('count'), MOST_ON_A_PAGE)));
  const expression = query.get('filter');
  const slice = sliceOf(expression);
  let total: number;
  let page: ScimResource[];
  if (slice) {
    total = await entries.count(kind, slice);
    page = count === 0 ? [] : await entries.list(kind, { ...slice, from: start - 1, count });
  } else {
    const matches = filterOf(expression ?? '');
    const found = (await entries.list(kind, {})).filter(matches);
    total = found.length;
    page = found.slice(start - 1, start - 1 + count);
  }
  const wanted = query.get('attributes')?.split(',');
  const left = query.get('excludedAttributes')?.split(',');
  return {
    status: 200,
    headers: TYPE,
    body: {
      schemas: [LIST],
      totalResults: total,
      startIndex: start,
      itemsPerPage: page.length,
      Resources: page.map((one) => only(one, wanted, left)),
    },
  };
}

const wholeOf = (text: string | null, usual: number): number =>
  text === null || !/^-?\d{1,9}$/.test(text) ? usual : Number(text);

/** The filters that the database can answer by itself; undefined: each entry has to be looked at. */
function sliceOf(expression: string | null): ScimSlice | undefined {
  if (expression === null) return {};
  const [, since] = /^meta\.lastModified ge "([^"]+)"$/i.exec(expression) ?? [];
  if (since !== undefined && !Number.isNaN(Date.parse(since))) return { since: Date.parse(since) };
  const [, name] = /^(?:userName|displayName) eq "([^"\\]+)"$/i.exec(expression) ?? [];
  return name === undefined ? undefined : { name };
}

/** `schemas` and `id` always come (RFC 7643, section 7: returned "always"). */
function only(resource: ScimResource, wanted?: readonly string[], left?: readonly string[]): object {
  const isIn = (list: readonly string[], name: string): boolean =>
    list.some((one) => one.split('.')[0]?.toLowerCase() === name.toLowerCase());
  return Object.fromEntries(
    Object.entries(resource).filter(
      ([name]) =>
        name === 'id' || name === 'schemas' || (wanted ? isIn(wanted, name) : !(left && isIn(left, name))),
    ),
  );
}

interface BulkOperation {
  readonly method: string;
  readonly path: string;
  readonly bulkId?: string;
  readonly data?: Record<string, unknown>;
}

function isBulkOperation(asked: unknown): asked is BulkOperation {
  if (typeof asked !== 'object' || asked === null) return false;
  const { method, path, bulkId, data } = asked as Record<string, unknown>;
  const isObject = typeof data === 'object' && data !== null && !Array.isArray(data);
  return (
    typeof method === 'string' &&
    typeof path === 'string' &&
    (bulkId === undefined || typeof bulkId === 'string') &&
    (data === undefined || isObject)
  );
}

/** RFC 7644, section 3.7: each operation by itself, until more have failed than may. */
async function bulk({ body }: ScimRequest, entries: ScimEntries, newId: () => string): Promise<ScimAnswer> {
  if (!Array.isArray(body.schemas) || !body.schemas.includes(BULK))
    throw new ScimRefusal(400, `The schema is not ${BULK}.`, 'invalidSyntax');
  const operations: unknown[] = Array.isArray(body.Operations) ? body.Operations : [];
  if (operations.length > MOST_AT_ONCE) throw new ScimRefusal(413, 'Those are too many operations.');
  const most = typeof body.failOnErrors === 'number' ? body.failOnErrors : Infinity;
  const made = new Map<string, string>();
  const outcomes: object[] = [];
  let failed = 0;
  for (const asked of operations) {
    if (failed >= most) break;
    if (!isBulkOperation(asked)) {
      failed += 1;
      const refusal = new ScimRefusal(400, 'An operation has a method and a path.', 'invalidSyntax');
      outcomes.push({ status: String(refusal.status), response: refusal.body });
      continue;
    }
    const one = asked;
    const { method, bulkId } = one;
    try {
      const id = await oneOfBulk(one, entries, made, newId);
      if (bulkId !== undefined) made.set(bulkId, id);
      const [, path = ''] = one.path.split('/');
      outcomes.push({
        method,
        ...(bulkId === undefined ? {} : { bulkId }),
        location: `${entries.base}/${path}/${id}`,
        status: method === 'POST' ? '201' : method === 'DELETE' ? '204' : '200',
      });
    } catch (error) {
      if (!(error instanceof ScimRefusal)) throw error;
      failed += 1;
      outcomes.push({ method, bulkId, status: String(error.status), response: error.body });
    }
  }
  return {
    status: 200,
    headers: TYPE,
    body: { schemas: ['urn:ietf:params:scim:api:messages:2.0:BulkResponse'], Operations: outcomes },
  };
}

async function oneOfBulk(
  { method, path, data = {} }: BulkOperation,
  entries: ScimEntries,
  made: ReadonlyMap<string, string>,
  newId: () => string,
): Promise<string> {
  const [, plural = '', given] = path.split('/');
  const kind = kindOf(plural);
  if (!kind) throw new ScimRefusal(404, `Nothing is served at ${path}.`);
  const resolved = JSON.parse(
    JSON.stringify(data).replaceAll(/"bulkId:([^"]+)"/g, (whole, id: string) =>
      made.has(id) ? JSON.stringify(made.get(id)) : whole,
    ),
  ) as Record<string, unknown>;
  const whole = written(resolved) as Record<string, unknown>;
  if (method === 'POST') return (await entries.put(kind, { ...whole, id: newId() })).id;
  const before = await entries.one(kind, given ?? '');
  if (method === 'PUT') await entries.put(kind, { ...whole, id: before.id });
  else if (method === 'PATCH') await entries.put(kind, patched(before, resolved));
  else if (method === 'DELETE') await entries.remove(kind, before.id);
  else throw new ScimRefusal(400, `${method} is no operation.`, 'invalidSyntax');
  return before.id;
}
