import { parse } from 'hono/utils/cookie';
import { Problem } from '../problem';

/** What is read off a request. */

/**
 * The body as text, read only as far as it may be long, whatever its header says.
 * @throws Problem 413 when it is longer than `most` bytes
 */
export async function readText(request: Request, most: number): Promise<string> {
  const tooLarge = new Problem(413, 'too-large', `That is more than ${Math.floor(most / 1_000_000)} MB.`);
  if (Number(request.headers.get('content-length') ?? 0) > most) throw tooLarge;
  if (!request.body) return '';
  const decoder = new TextDecoder();
  const reader = request.body.getReader() as ReadableStreamDefaultReader<Uint8Array>;
  let text = '';
  for (let read = 0; ;) {
    const { done, value } = await reader.read();
    if (done) return text + decoder.decode();
    read += value.byteLength;
    if (read > most) {
      await reader.cancel();
      throw tooLarge;
    }
    text += decoder.decode(value, { stream: true });
  }
}

export const cookieOf = (request: Request, name: string): string | undefined =>
  parse(request.headers.get('cookie') ?? '', name)[name] || undefined;

export const bearerOf = (request: Request): string | undefined =>
  /^Bearer (\S+)$/.exec(request.headers.get('authorization') ?? '')?.[1];

/** Whether the browser came over TLS, here or at the gate in front of us. */
export const isSecure = (request: Request): boolean =>
  new URL(request.url).protocol === 'https:' || request.headers.get('x-forwarded-proto') === 'https';

/**
 * Whom a sign-in is counted against; a header of that name from outside is overwritten. A gate on this machine speaks for
 * others: it says for whom.
 */
export function notePeer(request: Request, clientAddress: string): void {
  const forwarded = request.headers.get('x-forwarded-for')?.split(',').at(-1)?.trim();
  const isGate = clientAddress === '127.0.0.1' || clientAddress === '::1';
  request.headers.set('x-laager-peer', isGate && forwarded ? forwarded : clientAddress);
}

/** The address that a sign-in is counted against, as the endpoint noted it. */
export const fromOf = (request: Request): string => request.headers.get('x-laager-peer') ?? 'unknown';

/** Whether a request that changes something comes from our own pages. A browser says so; what says nothing is not one of ours. */
export function isSameOrigin(request: Request): boolean {
  const origin = request.headers.get('origin');
  if (origin === null) return request.headers.get('sec-fetch-site') === 'same-origin';
  try {
    return new URL(origin).host === request.headers.get('host');
  } catch {
    return false;
  }
}

/** What changes something must come from our own pages, unless a token speaks for it. @throws Problem 403 */
export function refuseForeign(request: Request): void {
  if (request.method !== 'GET' && !isSameOrigin(request))
    throw new Problem(403, 'origin', 'The request did not come from this site.');
}
