import ky from 'ky';
import { ApiProblem } from './problem';
import { changedMeanwhile, nowStored, tagFor, type Stored } from './stored';
import type { Endpoint, Endpoints, Method, Page, Sent } from '../contract';

export { ApiProblem };

const BASE = '/api/v1';
/** An answer that has not come by then is not waited for any longer. */
const PATIENCE_MS = 60_000;

/** Told to the window when the API no longer knows who asks. */
export const SIGNED_OUT = 'laager:signed-out';

export interface Sending {
  readonly body?: unknown;
  readonly csv?: string;
  /** A text of another type. */
  readonly text?: { readonly body: string; readonly type: string };
  /** Sent again with the same key, a write is done once. */
  readonly key?: string;
  readonly version?: number;
  /** What the write replaces: it is refused where somebody else has saved another meanwhile. */
  readonly stored?: Stored;
}

/** Calls the API at a path as it stands in the address. @throws ApiProblem; status 0 when no answer came */
export async function call<Answer>(method: string, path: string, sending: Sending = {}): Promise<Answer> {
  const headers: Record<string, string> = {};
  if (sending.csv !== undefined) headers['content-type'] = 'text/csv';
  if (sending.text !== undefined) headers['content-type'] = sending.text.type;
  // Whose page it is written from: the server holds it against the customer that the path names.
  const focus = method === 'GET' ? undefined : document.body.dataset.focus;
  if (focus !== undefined) headers['x-laager-focus'] = focus;
  if (sending.key !== undefined) headers['idempotency-key'] = sending.key;
  if (sending.version !== undefined) headers['if-match'] = `"${sending.version}"`;
  if (sending.stored) headers['if-match'] = await tagFor(sending.stored);
  try {
    const response = await ky(BASE + path, {
      method,
      headers,
      timeout: PATIENCE_MS,
      retry: 0,
      throwHttpErrors: false,
      ...(sending.body === undefined ? {} : { json: sending.body }),
      ...(sending.csv === undefined ? {} : { body: sending.csv }),
      ...(sending.text === undefined ? {} : { body: sending.text.body }),
    });
    const text = await response.text();
    if (response.status === 401 && path !== '/session') dispatchEvent(new Event(SIGNED_OUT));
    if (response.ok) {
      if (sending.stored) nowStored(sending.stored, sending.body, response.headers.get('etag'));
      return (text === '' ? undefined : JSON.parse(text)) as Answer;
    }
    const problem = problemOf(response.status, text);
    throw sending.stored ? changedMeanwhile(sending.stored, problem) : problem;
  } catch (error) {
    if (error instanceof ApiProblem) throw error;
    throw new ApiProblem(
      0,
      'no-answer',
      'Laager does not answer. What you entered is still here; try again.',
      {},
      {},
    );
  }
}

function problemOf(status: number, text: string): ApiProblem {
  const body = parsed(text);
  const fields =
    typeof body.fields === 'object' && body.fields !== null ? (body.fields as Record<string, string>) : {};
  const detail = typeof body.detail === 'string' ? body.detail : 'Laager answered with something unexpected.';
  const code = typeof body.type === 'string' ? (body.type.split(':').at(-1) ?? '') : '';
  return new ApiProblem(status, code, detail, fields, body);
}

function parsed(text: string): Record<string, unknown> {
  try {
    const value: unknown = JSON.parse(text);
    return typeof value === 'object' && value !== null ? (value as Record<string, unknown>) : {};
  } catch {
    return {};
  }
}

/** The names in a path's braces, each with what stands there. */
type ParamsOf<Path extends string> = Path extends `${string}{${infer Name}}${infer Rest}`
  ? { readonly [Key in Name]: string } & ParamsOf<Rest>
  : unknown;
type Of<Verb extends Method, Path extends string> = Extract<
  Endpoints,
  { readonly method: Verb; readonly path: Path }
>;
type AnswerOf<Stated> =
  Stated extends Endpoint<string, infer _Params, infer _Query, infer _Body, infer Answer> ? Answer : never;
/** What is sent to it: undefined where it takes no body. */
type BodyOf<Stated> =
  Stated extends Endpoint<string, infer _Params, infer _Query, infer Body> ? Sent<Body> : undefined;
type Queries = Readonly<Record<string, string | number | undefined>>;
/** The API's paths that are read. */
export type ReadPath = Extract<Endpoints, { readonly method: 'GET' }>['path'];
type WritePath<Verb extends Method> = Extract<Endpoints, { readonly method: Verb }>['path'];

/** The address of a path: its names filled in, and those query parameters that say something. */
export function addressOf(path: string, params: object, query: Queries = {}): string {
  const values = new Map(Object.entries(params).map(([name, value]) => [name, String(value)]));
  const filled = path.replace(/\{(\w+)\}/g, (_all, name: string) =>
    encodeURIComponent(values.get(name) ?? ''),
  );
  const said = Object.entries(query)
    .filter(([, value]) => value !== undefined && value !== '')
    .map(([name, value]) => `${name}=${encodeURIComponent(value ?? '')}`)
    .join('&');
  return said === '' ? filled : `${filled}?${said}`;
}

/** Reads from the API. @param path as the contract states it, with its names in braces */
export const get = <const Path extends ReadPath>(
  path: Path,
  params: ParamsOf<Path>,
  query: Queries = {},
): Promise<AnswerOf<Of<'GET', Path>>> => call('GET', addressOf(path, params as object, query));

/** Writes through the API. @param path as the contract states it */
export const send = <const Verb extends Exclude<Method, 'GET'>, const Path extends WritePath<Verb>>(
  method: Verb,
  path: Path,
  params: ParamsOf<Path>,
  sending: Omit<Sending, 'body'> & {
    readonly body?: BodyOf<Of<Verb, Path>>;
    readonly query?: Queries;
  } = {},
): Promise<AnswerOf<Of<Verb, Path>>> =>
  call(method, addressOf(path, params as object, sending.query), sending);

/** What one entry of a list is. */
export type EntryOf<Path extends ReadPath> =
  AnswerOf<Of<'GET', Path>> extends Page<infer Entry> ? Entry : never;

const PAGE = 1000;

/** A whole list, page after page. */
export async function getAll<const Path extends ReadPath>(
  path: Path,
  params: ParamsOf<Path>,
): Promise<EntryOf<Path>[]> {
  const all: EntryOf<Path>[] = [];
  for (let after: string | null = ''; after !== null;) {
    const page: Page<EntryOf<Path>> = await call(
      'GET',
      addressOf(path, params as object, { limit: PAGE, after }),
    );
    all.push(...page.entries);
    after = page.next;
  }
  return all;
}

/** What went wrong, to be shown where no field stands for it. */
export function whyOf(error: unknown): string {
  const named = error instanceof ApiProblem && error.code === 'invalid' ? Object.entries(error.fields) : [];
  if (named.length > 0) return `${named.map(([field, why]) => `${field} ${why}`).join('; ')}.`;
  return error instanceof Error ? error.message : String(error);
}

export const newKey = (): string => crypto.randomUUID();
