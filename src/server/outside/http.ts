import type Joi from 'joi';
import ky from 'ky';
import { faultOfValue } from '../../core/untrusted';
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
/** So long an answer may be when it is unpacked. */
const MOST_BYTES = 16_000_000;
const BOUNDS = { depth: 32, entries: 2_000_000 } as const;
const USUAL_WAIT_MS = 1_000;
const MOST_WAIT_MS = 3_600_000;

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
          text: await boundedText(system, response),
          retryAfter: response.headers.get('retry-after'),
          date: Date.parse(response.headers.get('date') ?? ''),
        };
      });
    } catch (error) {
      throw error instanceof OutsideError ? error : unreachedBy(system, error);
    }
    if (reply.status >= 300 && reply.status < 400)
      throw new Unreachable(system, 'sends us to another address', 'elsewhere');
    if (reply.status === 429)
      throw new OutsideError(
        system,
        'asks us to slow down',
        'passing',
        retryAfterMs(reply.retryAfter, Date.now()),
      );
    const body = noAnswer ? undefined : parsed(system, reply.text);
    if (reply.status >= 500) throw new OutsideError(system, says(body, reply.status), 'passing');
    return { status: reply.status, body, date: Number.isNaN(reply.date) ? undefined : reply.date };
  };
}

/**
 * An answer's text, read bit by bit and no further than it may be long: what came compressed may be a thousand times longer.
 * @throws OutsideError when it is longer
 */
export async function boundedText(system: string, response: Response, most = MOST_BYTES): Promise<string> {
  if (!response.body) return '';
  const decoder = new TextDecoder();
  const reader = response.body.getReader();
  const parts: string[] = [];
  for (let bytes = 0; ;) {
    const { done, value } = await reader.read();
    if (done) return parts.join('') + decoder.decode();
    bytes += value.byteLength;
    if (bytes > most) {
      await reader.cancel();
      throw new OutsideError(system, `gave an answer longer than ${most} bytes`, 'passing');
    }
    parts.push(decoder.decode(value, { stream: true }));
  }
}

/** How long to wait, as `Retry-After` says (RFC 9110, section 10.2.3): seconds or a date; an hour at most. */
export function retryAfterMs(header: string | null, now: number): number {
  if (header === null) return USUAL_WAIT_MS;
  const ms = /^\d{1,9}$/.test(header.trim()) ? 1_000 * Number(header) : Date.parse(header) - now;
  return Number.isNaN(ms) ? USUAL_WAIT_MS : Math.min(Math.max(ms, USUAL_WAIT_MS), MOST_WAIT_MS);
}

const UNSAFE = ['__proto__', 'prototype', 'constructor'];

function parsed(system: string, text: string): unknown {
  if (text === '') return undefined;
  let body: unknown;
  try {
    body = JSON.parse(text) as unknown;
  } catch {
    throw new OutsideError(system, 'gave an answer that is not JSON', 'passing');
  }
  // Answers are long and come often: they are searched only where a bad key could be.
  const fault = UNSAFE.some((key) => text.includes(key)) ? faultOfValue(body, BOUNDS) : undefined;
  if (fault !== undefined) throw new OutsideError(system, `gave an answer that ${fault}`, 'lasting');
  return body;
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
