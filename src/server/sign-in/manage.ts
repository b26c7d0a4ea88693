import { can, RIGHTS, type Token } from '../../contract';
import type { Actor, Scope } from '../access';
import { sql, type Connection } from '../db';
import { listOperators, normalMail, operatorOf, refuseBeyond } from '../operators';
import { notFound } from '../problem';
import { write, type Tx, type WriteHouse } from '../write';

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
    const operator = await tx.row<{ id: string }>('SELECT id FROM operator WHERE mail = ?', [
      normalMail(mail),
    ]);
    if (!operator) throw notFound('operator');
    return endAll(house, tx, scope, operator.id);
  });
}

/** As `endWaysIn`, of an operator by id. */
export const endWaysInOf = (house: WriteHouse, scope: Scope, id: string): Promise<number> =>
  write(house, scope, [], (tx) => endAll(house, tx, scope, id));

async function endAll(house: WriteHouse, tx: Tx, scope: Scope, id: string): Promise<number> {
  const operator = await operatorOf(tx, id, house.clock.wall());
  await refuseBeyond(tx, scope, operator);
  const ended =
    (await tx.write('DELETE FROM web_session WHERE operator_id = ?', [id])) +
    (await tx.write('DELETE FROM api_token WHERE operator_id = ?', [id]));
  await tx.record({
    action: 'end every way in',
    subject: operator.name,
    after: { ended },
    topic: 'ground',
    id,
  });
  return ended;
}

/**
 * API tokens that have not expired, newest first: one's own, or to a lead those of operators too who reach nobody beyond them.
 * @param now wall time
 */
export async function listTokens(db: Connection, scope: Scope, now: number): Promise<Token[]> {
  const rows = await db.rows<Omit<Token, 'rights'> & { owner: string; rights: string | null }>(
    sql`SELECT t.id, t.name, o.name AS operator, o.id AS owner, t.rights, t.created_at AS madeAt, t.expires_at AS endsAt, t.last_used_at AS usedAt
     FROM api_token t JOIN operator o ON o.id = t.operator_id
     WHERE t.expires_at > ${now} ORDER BY t.id DESC`,
  );
  const theirs = new Set(
    seesOthers(scope.actor) ? (await listOperators(db, scope, now)).map(({ id }) => id) : [scope.actor.id],
  );
  return rows
    .filter(({ owner }) => theirs.has(owner))
    .map(({ owner: _owner, rights, ...token }) => ({
      ...token,
      rights: rights === null ? null : RIGHTS.filter((right) => rights.split(',').includes(right)),
    }));
}

const seesOthers = ({ rights }: Actor): boolean => can(rights, 'decide');

/** Ends an API token: one's own, or as a lead of somebody within their reach. @throws Problem 404 */
export async function endToken(house: WriteHouse, scope: Scope, id: string): Promise<void> {
  await write(house, scope, [], async (tx) => {
    const token = await tx.row<{ name: string; operator_id: string }>(
      'SELECT name, operator_id FROM api_token WHERE id = ?',
      [id],
    );
    if (!token || (token.operator_id !== scope.actor.id && !seesOthers(scope.actor))) throw notFound('token');
    if (token.operator_id !== scope.actor.id)
      await refuseBeyond(tx, scope, await operatorOf(tx, token.operator_id, house.clock.wall()));
    await tx.write('DELETE FROM api_token WHERE id = ?', [id]);
    await tx.record({ action: 'end API token', subject: token.name, topic: 'ground', id });
  });
}
