/** What is read off a request besides its body. */

export function cookieOf(request: Request, name: string): string | undefined {
  for (const pair of (request.headers.get('cookie') ?? '').split(';')) {
    const [key, ...value] = pair.trim().split('=');
    if (key === name) return value.join('=') || undefined;
  }
  return undefined;
}

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
