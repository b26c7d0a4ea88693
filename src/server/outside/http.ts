import type Joi from 'joi';
import ky from 'ky';
import { NotAllowed, OutsideError, Unreachable } from './error';
import { unreachedBy } from './unreached';
import { waitOutside } from './waiting';

export interface OutsideReply {
  readonly status: number;
  readonly body: unknown;
  /** Its clock, as the answer's Date says (RFC 9110, section 6.6.1); undefined: it says none. */
  readonly date: number | undefined;
}

export interface OutsideRequest {
  readonly json?: unknown;
  /** What is sent byte by byte as it stands here, like something that was signed. */
  readonly text?: { readonly body: string; readonly type: string };
  readonly headers?: Readonly<Record<string, string>>;
  /** Only how it is answered counts: what the answer holds is not read. */
  readonly noAnswer?: true;
}

const PATIENCE_MS = 10_000;

export type Send = (method: string, path: string, request?: OutsideRequest) => Promise<OutsideReply>;

/**
 * Talks JSON over HTTP to a system outside. Whatever goes wrong on the way, a body that stalls among it, is an
 * `OutsideError`; so are 429 and 5xx. Other refusals are answers.
 */
export function outsideHttp(system: string, url: string): Send {
  const client = ky.create({ retry: 0, throwHttpErrors: false, timeout: false });
  return async (method, path, { json, text, headers = {}, noAnswer } = {}) => {
    let reply: { status: number; text: string; retryAfter: string | null; date: number };
    try {
      reply = await waitOutside(async () => {
        const response = await client(url + path, {
          method,
          headers: text ? { ...headers, 'content-type': text.type } : headers,
          // Another address is another system: it gets neither our secret nor what we ask.
          redirect: 'manual',
          signal: AbortSignal.timeout(PATIENCE_MS),
          ...(json === undefined ? {} : { json }),
          ...(text === undefined ? {} : { body: text.body }),
        });
        return {
          status: response.status,
          text: await response.text(),
          retryAfter: response.headers.get('retry-after'),
          date: Date.parse(response.headers.get('date') ?? ''),
        };
      });
    } catch (error) {
      throw unreachedBy(system, error);
    }
    if (reply.status >= 300 && reply.status < 400)
      throw new Unreachable(system, 'sends us to another address', 'elsewhere');
    if (reply.status === 429)
      throw new OutsideError(
        system,
        'asks us to slow down',
        'passing',
        1_000 * Number(reply.retryAfter ?? 1),
      );
    const body = noAnswer ? undefined : parsed(system, reply.text);
    if (reply.status >= 500) throw new OutsideError(system, says(body, reply.status), 'passing');
    return { status: reply.status, body, date: Number.isNaN(reply.date) ? undefined : reply.date };
  };
}

function parsed(system: string, text: string): unknown {
  if (text === '') return undefined;
  try {
    return JSON.parse(text) as unknown;
  } catch {
    throw new OutsideError(system, 'gave an answer that is not JSON', 'passing');
  }
}

const says = (body: unknown, status: number): string =>
  typeof body === 'object' && body !== null && 'message' in body && typeof body.message === 'string'
    ? `says: ${body.message}`
    : `answered ${status}`;

/** The body of an answer that is no refusal. @throws OutsideError for 4xx: lasting, or for 412 changed */
export function accepted(system: string, reply: OutsideReply): unknown {
  if (reply.status < 400) return reply.body;
  if (reply.status === 403) throw new NotAllowed(system, says(reply.body, reply.status));
  throw new OutsideError(
    system,
    says(reply.body, reply.status),
    reply.status === 412 ? 'changed' : reply.status === 401 ? 'passing' : 'lasting',
  );
}

/** An answer of another shape than agreed is trouble that stays, not something to guess about. */
export function understood<Shape>(system: string, schema: Joi.Schema<Shape>, body: unknown): Shape {
  const { error, value } = schema.validate(body, { convert: false, allowUnknown: true });
  if (error)
    throw new OutsideError(system, `gave an answer that is not understood: ${error.message}`, 'lasting');
  return value;
}
