import { parse } from 'hono/utils/cookie';
import { Problem } from '../problem';
import { clientAddress, type Gates } from '../client-address';

/** What is read off a request. */

/**
 * The body as text, read only as far as it may be long, whatever its header says.
 * @throws Problem 413 when it is longer than `most` bytes
 */
export async function readText(request: Request, most: number): Promise<string> {
  const tooLarge = new Problem(413, 'too-large', `That is more than ${most.toLocaleString('en')} bytes.`);
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

/** What every answer tells a browser for its safety: to guess no type, to name no page of ours elsewhere, to stay encrypted. */
export const safetyHeaders = (request: Request): Readonly<Record<string, string>> => ({
  'x-content-type-options': 'nosniff',
  'referrer-policy': 'same-origin',
  'cross-origin-opener-policy': 'same-origin',
  ...(isSecure(request) ? { 'strict-transport-security': 'max-age=31536000' } : {}),
});

/**
 * Notes on a request who is at its other end, and forgets what only a gate may say; headers of those names from outside
 * are overwritten.
 */
export function noteClient({ headers }: Request, socket: string, gates: Gates): void {
  const from = clientAddress(socket, headers.get('x-forwarded-for'), gates);
  headers.set('x-laager-peer', from);
  // Whoever speaks for itself came to us as it came.
  if (from === clientAddress(socket, null, gates)) headers.delete('x-forwarded-proto');
}

/** The address that a sign-in is counted against, as the middleware noted it. */
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
