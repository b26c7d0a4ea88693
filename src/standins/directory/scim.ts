import { randomUUID } from 'node:crypto';
import { BULK, filterOf, LIST, MOST_ON_A_PAGE, patched, ScimRefusal } from '../../core/scim';
import type { Store } from '../kit/database';
import { Refusal, type Answer, type Call, type Handler, type Routes } from '../kit/server';
import { Entries, KINDS, type Kind, type Resource, type Slice } from './entries';
import { describing } from './scim-describing';

const MOST_AT_ONCE = 1_000;
const TYPE = { 'content-type': 'application/scim+json' };
const BASE = '/realms/:realm/scim/v2';

/** SCIM 2.0 (RFC 7644) over the entries of each realm, for whoever has its token. */
export function scimRoutes(store: Store): Routes {
  const inside =
    (work: (call: Call, entries: Entries) => Promise<Answer>): Handler =>
    async (call) => {
      const realm = call.params.realm ?? '';
      try {
        const reader = await store.row<{ token: string }>('SELECT token FROM reader WHERE realm = ?', [
          realm,
        ]);
        if (!reader || call.header('authorization') !== `Bearer ${reader.token}`)
          throw new ScimRefusal(401, 'The token is wrong.');
        return await work(call, new Entries(store, realm, `/realms/${realm}/scim/v2`));
      } catch (error) {
        if (error instanceof Refusal) throw error;
        if (!(error instanceof ScimRefusal)) throw error;
        return { status: error.status, body: error.body, headers: TYPE };
      }
    };
  const each = Object.entries(KINDS).flatMap(([path, kind]): [string, Handler][] => [
    [`GET ${BASE}/${path}`, inside(async (call, entries) => listed(call, entries, kind))],
    [
      `GET ${BASE}/${path}/:id`,
      inside(async ({ params, header }, entries) => {
        const found = await entries.one(kind, params.id ?? '');
        return header('if-none-match') === versionOf(found)
          ? { status: 304, headers: { etag: versionOf(found) } }
          : shown(found);
      }),
    ],
    [
      `POST ${BASE}/${path}`,
      inside(async ({ body }, entries) =>
        shown(await entries.put(kind, { ...body, id: randomUUID() } as Resource), 201),
      ),
    ],
    [
      `PUT ${BASE}/${path}/:id`,
      inside(async (call, entries) => {
        const before = await current(call, entries, kind);
        return shown(await entries.put(kind, { ...call.body, id: before.id } as Resource));
      }),
    ],
    [
      `PATCH ${BASE}/${path}/:id`,
      inside(async (call, entries) =>
        shown(await entries.put(kind, patched(await current(call, entries, kind), call.body))),
      ),
    ],
    [
      `DELETE ${BASE}/${path}/:id`,
      inside(async (call, entries) => {
        await current(call, entries, kind);
        await entries.remove(kind, call.params.id ?? '');
        return { status: 204 };
      }),
    ],
  ]);
  return {
    ...Object.fromEntries(each),
    [`POST ${BASE}/Bulk`]: inside(bulk),
    ...Object.fromEntries(
      Object.entries(describing(MOST_AT_ONCE)).map(([path, body]) => [
        `GET ${BASE}/${path}`,
        inside(async () => ({ status: 200, body, headers: TYPE })),
      ]),
    ),
  };
}

const versionOf = ({ meta }: Resource): string => String((meta as { version: string }).version);

const shown = (resource: Resource, status = 200): Answer => ({
  status,
  body: resource,
  headers: {
    ...TYPE,
    etag: versionOf(resource),
    location: String((resource.meta as { location: string }).location),
  },
});

/** What is to be changed, when it is still as whoever changes it knew it (RFC 7644, section 3.14). */
async function current({ params, header }: Call, entries: Entries, kind: Kind): Promise<Resource> {
  const found = await entries.one(kind, params.id ?? '');
  const known = header('if-match');
  if (known !== undefined && known !== versionOf(found))
    throw new ScimRefusal(412, 'It has changed since it was read.');
  return found;
}

/** RFC 7644, section 3.4.2: filtered, paged, and with the attributes that were asked for. */
async function listed({ query }: Call, entries: Entries, kind: Kind): Promise<Answer> {
  const start = Math.max(1, wholeOf(query.get('startIndex'), 1));
  const count = Math.min(MOST_ON_A_PAGE, Math.max(0, wholeOf(query.get('count'), MOST_ON_A_PAGE)));
  const expression = query.get('filter');
  const slice = sliceOf(expression);
  let total: number;
  let page: Resource[];
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
function sliceOf(expression: string | null): Slice | undefined {
  if (expression === null) return {};
  const [, since] = /^meta\.lastModified ge "([^"]+)"$/i.exec(expression) ?? [];
  if (since !== undefined && !Number.isNaN(Date.parse(since))) return { since: Date.parse(since) };
  const [, name] = /^(?:userName|displayName) eq "([^"\\]+)"$/i.exec(expression) ?? [];
  return name === undefined ? undefined : { name };
}

/** `schemas` and `id` always come (RFC 7643, section 7: returned "always"). */
function only(resource: Resource, wanted?: readonly string[], left?: readonly string[]): object {
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

/** RFC 7644, section 3.7: each operation by itself, until more have failed than may. */
async function bulk({ body }: Call, entries: Entries): Promise<Answer> {
  const operations = (Array.isArray(body.Operations) ? body.Operations : []) as BulkOperation[];
  if (!Array.isArray(body.schemas) || !body.schemas.includes(BULK))
    throw new ScimRefusal(400, `The schema is not ${BULK}.`, 'invalidSyntax');
  if (operations.length > MOST_AT_ONCE) throw new ScimRefusal(413, 'Those are too many operations.');
  const most = typeof body.failOnErrors === 'number' ? body.failOnErrors : Infinity;
  const made = new Map<string, string>();
  const outcomes: object[] = [];
  let failed = 0;
  for (const one of operations) {
    if (failed >= most) break;
    const { method, bulkId } = one;
    try {
      const id = await oneOfBulk(one, entries, made);
      if (bulkId !== undefined) made.set(bulkId, id);
      const [, path = ''] = one.path.split('/');
      outcomes.push({
        method,
        ...(bulkId === undefined ? {} : { bulkId }),
        location: `/realms/${entries.realm}/scim/v2/${path}/${id}`,
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
  entries: Entries,
  made: ReadonlyMap<string, string>,
): Promise<string> {
  const [, plural = '', given] = path.split('/');
  const kind = plural === 'Users' || plural === 'Groups' ? KINDS[plural] : undefined;
  if (!kind) throw new ScimRefusal(404, `Nothing is served at ${path}.`);
  const resolved = JSON.parse(
    JSON.stringify(data).replaceAll(/"bulkId:([^"]+)"/g, (whole, id: string) =>
      made.has(id) ? JSON.stringify(made.get(id)) : whole,
    ),
  ) as Record<string, unknown>;
  if (method === 'POST') return (await entries.put(kind, { ...resolved, id: randomUUID() } as Resource)).id;
  const before = await entries.one(kind, given ?? '');
  if (method === 'PUT') await entries.put(kind, { ...resolved, id: before.id } as Resource);
  else if (method === 'PATCH') await entries.put(kind, patched(before, resolved));
  else if (method === 'DELETE') await entries.remove(kind, before.id);
  else throw new ScimRefusal(400, `${method} is no operation.`, 'invalidSyntax');
  return before.id;
}
