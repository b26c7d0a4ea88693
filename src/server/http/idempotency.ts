import { createHash } from 'node:crypto';
import { seal, unseal, type Scope } from '../access';
import type { App } from '../app';
import { errorNumber } from '../db/query';
import { conflict, Problem } from '../problem';
import type { Reply } from './route';

const DUPLICATE = 1062;

interface Kept {
  readonly request_hash: string;
  readonly status: number | null;
  /** Sealed: an answer may hold a secret that is shown once. */
  readonly body: Buffer | null;
}

/**
 * Does a write once for each `Idempotency-Key` of an operator: sent again, it is answered as it was the first time.
 * @throws Problem 422 when the key came with another request before, 409 while the first is still at work
 */
export async function once(
  app: App,
  scope: Scope,
  request: {
    readonly key: string | undefined;
    readonly method: string;
    readonly path: string;
    readonly body: unknown;
  },
  work: () => Promise<Reply | Response>,
): Promise<Reply | Response> {
  const { key } = request;
  if (key === undefined) return work();
  if (key.length > 80)
    throw new Problem(400, 'idempotency-key', 'An Idempotency-Key has at most 80 characters.');
  const hash = createHash('sha256')
    .update(`${request.method} ${request.path} ${JSON.stringify(request.body ?? null)}`)
    .digest('hex');
  const before = await take(app, scope, key, hash);
  if (before) return replay(app, before, hash);
  try {
    const reply = await work();
    if (!(reply instanceof Response))
      await app.db.write(
        'UPDATE idempotency SET status = ?, body = ? WHERE operator_id = ? AND idempotency_key = ?',
        [
          reply.status,
          seal(app.secretKey, JSON.stringify({ body: reply.body ?? null, headers: reply.headers ?? {} })),
          scope.actor.id,
          key,
        ],
      );
    return reply;
  } catch (error) {
    // Nothing was done: the same key may be used for another try.
    await app.db.write('DELETE FROM idempotency WHERE operator_id = ? AND idempotency_key = ?', [
      scope.actor.id,
      key,
    ]);
    throw error;
  }
}

async function take(app: App, scope: Scope, key: string, hash: string): Promise<Kept | undefined> {
  try {
    await app.db.write(
      'INSERT INTO idempotency (operator_id, idempotency_key, request_hash, created_at) VALUES (?, ?, ?, ?)',
      [scope.actor.id, key, hash, app.clock.wall()],
    );
    return undefined;
  } catch (error) {
    if (errorNumber(error) !== DUPLICATE) throw error;
    if (await takeOver(app, scope, key, hash)) return undefined;
    return app.db.row<Kept>(
      'SELECT request_hash, status, body FROM idempotency WHERE operator_id = ? AND idempotency_key = ?',
      [scope.actor.id, key],
    );
  }
}

/** A first request that has been at work for so long died with its process: whoever asks again does it. */
const LOST_MS = 60_000;

async function takeOver(app: App, scope: Scope, key: string, hash: string): Promise<boolean> {
  const wall = app.clock.wall();
  const taken = await app.db.write(
    `UPDATE idempotency SET created_at = ?
     WHERE operator_id = ? AND idempotency_key = ? AND request_hash = ? AND status IS NULL AND created_at < ?`,
    [wall, scope.actor.id, key, hash, wall - LOST_MS],
  );
  return taken > 0;
}

function replay(app: App, kept: Kept, hash: string): Reply {
  if (kept.request_hash !== hash)
    throw new Problem(422, 'idempotency-key', 'This Idempotency-Key was used for another request.');
  if (kept.status === null || kept.body === null)
    throw conflict('in-progress', 'The first request with this Idempotency-Key is still at work.');
  const { body, headers } = JSON.parse(unseal(app.secretKey, kept.body)) as {
    body: unknown;
    headers: Record<string, string>;
  };
  return { status: kept.status, headers, ...(body === null ? {} : { body }) };
}
