import type { RequestKey, Scope, Sealing } from '../access';
import type { App } from '../app';
import { DatabaseError } from '../db';
import { Problem } from '../problem';
import { keptFor, madeBefore } from '../write';

/** A request's `Idempotency-Key`, and what the request is. @throws Problem 400 for a key that cannot be one */
export function requestKey(request: Request, body: unknown, sealing: Sealing): RequestKey | undefined {
  const key = request.headers.get('idempotency-key') ?? undefined;
  if (key === undefined) return undefined;
  if (!/^[ -~]{1,80}$/.test(key))
    throw new Problem(400, 'idempotency-key', 'An Idempotency-Key has 1 to 80 visible ASCII characters.');
  // A body may hold a secret: only who has our key can try what it was.
  const { pathname, search } = new URL(request.url);
  const asked = [request.method, pathname, search, request.headers.get('if-match'), body ?? null];
  const [hash, ...others] = sealing.signatures(JSON.stringify(asked)).map((one) => one.toString('hex'));
  return { key, hashes: [hash ?? '', ...others] };
}

/** A fault of ours: what a route makes is not what its transaction keeps. */
export const KEPT_OTHERWISE = 'a repeated request would be answered otherwise';

/** A fault of ours: a route that only asks has written. */
export const QUESTION_WROTE = 'a question wrote';

/**
 * Does a write once for each `Idempotency-Key` of whoever asks. What it makes is kept in its own transaction (see
 * `write`): so there is either both or neither, whatever dies in between. Of two at once, one finds the other's.
 * @returns what it made, now or when it came first
 * @throws Problem 422 when the key came with another request before
 */
export async function once(
  app: App,
  scope: Pick<Scope, 'actor' | 'request'>,
  work: () => Promise<unknown>,
): Promise<unknown> {
  if (!scope.request) return work();
  const before = await madeBefore(app, app.db, scope);
  if (before) return before.made;
  try {
    const made = await work();
    const kept = keptFor(scope.request);
    // Who sends it again is answered from what is kept: that has to be the same.
    if (kept !== undefined && kept !== JSON.stringify(made ?? null))
      app.log.error({ kept: kept.slice(0, 200) }, KEPT_OTHERWISE);
    return made;
  } catch (error) {
    if (!(error instanceof DatabaseError) || !error.isDuplicate) throw error;
    const other = await madeBefore(app, app.db, scope);
    if (!other) throw error;
    return other.made;
  }
}
