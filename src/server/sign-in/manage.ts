import type { Scope } from '../access';
import type { Connection } from '../db';
import { notFound } from '../problem';
import { write, type WriteHouse } from '../write';

/** A way in that stands open: a browser that is signed in, or an API token. */
export interface WayIn {
  readonly kind: 'sign-in' | 'token';
  /** Of a token; a sign-in has none that may be told. */
  readonly id: string;
  readonly operator: string;
  readonly mail: string;
  readonly name: string;
  /** Wall time. */
  readonly createdAt: number;
  readonly expiresAt: number;
}

/** Every way in that has not expired, by operator. @param now wall time */
export async function listWaysIn(db: Connection, now: number): Promise<WayIn[]> {
  const rows = await db.rows<WayIn>(
    `SELECT w.kind, w.id, o.name AS operator, o.mail, w.name, w.created_at AS createdAt, w.expires_at AS expiresAt
     FROM (SELECT 'sign-in' AS kind, '' AS id, operator_id, '' AS name, created_at, expires_at FROM web_session
           UNION ALL
           SELECT 'token', id, operator_id, name, created_at, expires_at FROM api_token) w
     JOIN operator o ON o.id = w.operator_id WHERE w.expires_at > ? ORDER BY o.mail, w.kind, w.created_at`,
    [now],
  );
  return rows;
}

/** Ends an operator's sign-ins in every browser, and their tokens. @returns how many ended @throws Problem 404 */
export async function endWaysIn(house: WriteHouse, scope: Scope, mail: string): Promise<number> {
  return write(house, scope, [], async (tx) => {
    const operator = await tx.row<{ id: string; name: string }>(
      'SELECT id, name FROM operator WHERE mail = ?',
      [mail.trim().toLowerCase()],
    );
    if (!operator) throw notFound('operator');
    const ended =
      (await tx.write('DELETE FROM web_session WHERE operator_id = ?', [operator.id])) +
      (await tx.write('DELETE FROM api_token WHERE operator_id = ?', [operator.id]));
    await tx.record({
      action: 'end every way in',
      subject: operator.name,
      after: { ended },
      topic: 'ground',
      id: operator.id,
    });
    return ended;
  });
}

/** Ends one API token. @throws Problem 404 */
export async function endToken(house: WriteHouse, scope: Scope, id: string): Promise<void> {
  await write(house, scope, [], async (tx) => {
    const token = await tx.row<{ name: string }>('SELECT name FROM api_token WHERE id = ?', [id]);
    if (!token) throw notFound('token');
    await tx.write('DELETE FROM api_token WHERE id = ?', [id]);
    await tx.record({ action: 'end API token', subject: token.name, topic: 'ground', id });
  });
}
