import { etagOf } from '../../contract/etag';
import type { App } from '../app';
import type { Connection } from '../db';
import { Problem } from '../problem';
import type { Ask, Reply, Route, Scopes } from './route';

/** Which values `If-Match` expects to be stored; undefined: any (RFC 9110, section 13.1.1). @throws Problem 400 */
function expectedBy(request: Request): string | undefined {
  const asked = request.headers.get('if-match')?.trim();
  if (asked === undefined || asked === '*') return undefined;
  const tag = /^"([\w-]{1,80})"$/.exec(asked)?.[1];
  if (tag === undefined) throw new Problem(400, 'if-match', 'If-Match takes one ETag, like "3".');
  return tag;
}

/**
 * What refuses a write over values that are no longer as whoever sends it read them; undefined where nothing is expected.
 * It is called in the transaction that writes.
 */
export function unchangedFor(
  route: Route,
  ask: Ask,
  scopes: Scopes,
): ((db: Connection) => Promise<void>) | undefined {
  const { stored } = route;
  const expected = stored && expectedBy(ask.request);
  if (!stored || expected === undefined) return undefined;
  return async (db) => {
    const current = await stored(ask, db, scopes);
    const tag = etagOf(current);
    if (tag === expected) return;
    throw new Problem(412, 'changed', 'Somebody else has saved this meanwhile.', {
      extra: { current: current ?? null },
      headers: { etag: `"${tag}"` },
    });
  };
}

/** An answer with the tag of what is stored now; without one where that is out of reach by now. */
export async function withTag(
  { db }: Pick<App, 'db'>,
  stored: NonNullable<Route['stored']>,
  ask: Ask,
  scopes: Scopes,
  reply: Reply | Response,
): Promise<Reply | Response> {
  if (reply instanceof Response) return reply;
  try {
    const etag = `"${etagOf(await stored(ask, db, scopes))}"`;
    return { ...reply, headers: { ...reply.headers, etag } };
  } catch (error) {
    // What was asked for is done: that nobody may read it now is no reason to say otherwise.
    if (error instanceof Problem) return reply;
    throw error;
  }
}
