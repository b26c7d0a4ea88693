/** A refusal of the API, as RFC 9457 tells it; `fields` says it beside each field. */
export class ApiProblem extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    detail: string,
    readonly fields: Readonly<Record<string, string>>,
    readonly body: Readonly<Record<string, unknown>>,
  ) {
    super(detail);
  }
}

const BASE = '/api/v1';

/** Told to the window when the API no longer knows who asks. */
export const SIGNED_OUT = 'laager:signed-out';

export interface Sending {
  readonly body?: unknown;
  readonly csv?: string;
  /** Sent again with the same key, a write is done once. */
  readonly key?: string;
  readonly version?: number;
}

/** Calls the API. @throws ApiProblem; status 0 when no answer came */
export async function call<Answer>(method: string, path: string, sending: Sending = {}): Promise<Answer> {
  const headers: Record<string, string> = {};
  if (sending.body !== undefined) headers['content-type'] = 'application/json';
  if (sending.csv !== undefined) headers['content-type'] = 'text/csv';
  if (sending.key !== undefined) headers['idempotency-key'] = sending.key;
  if (sending.version !== undefined) headers['if-match'] = `"${sending.version}"`;
  const body = sending.csv ?? (sending.body === undefined ? undefined : JSON.stringify(sending.body));
  const response = await fetch(BASE + path, {
    method,
    headers,
    ...(body === undefined ? {} : { body }),
  }).catch(() => {
    throw new ApiProblem(
      0,
      'no-answer',
      'Laager does not answer. What you entered is still here; try again.',
      {},
      {},
    );
  });
  const text = await response.text();
  if (response.status === 401 && path !== '/session') dispatchEvent(new Event(SIGNED_OUT));
  if (response.ok) return (text === '' ? undefined : JSON.parse(text)) as Answer;
  throw problemOf(response.status, text);
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

export const get = <Answer>(path: string): Promise<Answer> => call<Answer>('GET', path);

const PAGE = 1000;

/** A whole list, page after page. @param path of a list, without a query */
export async function getAll<Entry>(path: string): Promise<Entry[]> {
  const all: Entry[] = [];
  for (let after: string | null = ''; after !== null;) {
    const from: string = after === '' ? '' : `&after=${encodeURIComponent(after)}`;
    const page: { entries: Entry[]; next: string | null } = await get(`${path}?limit=${PAGE}${from}`);
    all.push(...page.entries);
    after = page.next;
  }
  return all;
}

/** What went wrong, to be shown. */
export const whyOf = (error: unknown): string => (error instanceof Error ? error.message : String(error));

export const newKey = (): string => crypto.randomUUID();
