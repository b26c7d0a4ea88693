import { randomBytes } from 'node:crypto';
import { deskScope, type CustomerScope, type DeskScope } from '../access';
import type { App } from '../app';
import { join, sql, transaction, type Connection } from '../db';
import { hashOf } from '../operators';
import { notFound, Problem } from '../problem';
import { writeTrail } from '../trail';
import { write, type WriteHouse } from '../write';

export const DESK_COOKIE = 'laager_desk';

export const DESK_SESSION_MS = 12 * 60 * 60_000;

export const newToken = (): string => randomBytes(32).toString('base64url');

/** Whose way in it is; undefined: nobody's, or it is over. It is not used up by looking. */
export async function linkOf(
  app: App,
  link: string,
): Promise<{ readonly name: string; readonly customer: string } | undefined> {
  return app.db.row<{ name: string; customer: string }>(
    sql`SELECT TRIM(CONCAT(p.given, ' ', p.family)) AS name, c.name AS customer FROM desk_link l
        JOIN person p ON (p.customer_id, p.id) = (l.customer_id, l.person_id) AND p.left_at IS NULL
        JOIN customer c ON c.id = l.customer_id
        WHERE l.token_hash = ${hashOf(link)} AND l.until_wall > ${app.clock.wall()}`,
  );
}

/** Signs in by a way in, which is used up. @returns what the cookie holds @throws Problem 401 */
export async function signInByLink(app: App, link: string): Promise<string> {
  const token = newToken();
  return transaction(app.db, async (tx) => {
    const wall = app.clock.wall();
    const row = await tx.row<{ customer_id: string; person_id: string; name: string }>(
      sql`SELECT l.customer_id, l.person_id, TRIM(CONCAT(p.given, ' ', p.family)) AS name FROM desk_link l
          JOIN person p ON (p.customer_id, p.id) = (l.customer_id, l.person_id) AND p.left_at IS NULL
          WHERE l.token_hash = ${hashOf(link)} AND l.until_wall > ${wall}
            AND NOT EXISTS (SELECT 1 FROM desk_identity d WHERE d.customer_id = l.customer_id AND d.only_there) FOR UPDATE`,
    );
    if (!row || (await tx.write(sql`DELETE FROM desk_link WHERE token_hash = ${hashOf(link)}`)) === 0)
      throw new Problem(401, 'link', 'This way in is used up or over. Ask for another.');
    await keepSession(app, tx, token, row.customer_id, { id: row.person_id, name: row.name }, undefined);
    return token;
  });
}

/** Opens somebody's desk for them, who showed who they are elsewhere. @returns what the cookie holds */
export async function openDesk(
  app: App,
  { customer }: CustomerScope,
  person: { readonly id: string; readonly name: string },
  by: string,
): Promise<string> {
  const token = newToken();
  await transaction(app.db, (tx) => keepSession(app, tx, token, customer.id, person, by));
  return token;
}

async function keepSession(
  app: App,
  tx: Connection,
  token: string,
  customerId: string,
  person: { readonly id: string; readonly name: string },
  by: string | undefined,
): Promise<void> {
  await tx.write(
    sql`INSERT INTO desk_session (token_hash, customer_id, person_id, until_wall)
        VALUES (${hashOf(token)}, ${customerId}, ${person.id}, ${app.clock.wall() + DESK_SESSION_MS})`,
  );
  await writeTrail(tx, {
    customerId,
    at: app.clock.now(),
    actor: { ...person, role: 'person' },
    action: 'sign in at their desk',
    subject: person.name,
    ...(by === undefined ? {} : { after: { by } }),
  });
}

export const signOutOfDesk = (app: App, token: string): Promise<number> =>
  app.db.write(sql`DELETE FROM desk_session WHERE token_hash = ${hashOf(token)}`);

/**
 * Signs somebody out of their desk everywhere; links that were mailed to them no longer work.
 * @returns how many sign-ins ended @throws Problem 404
 */
export const endSignIns = (
  house: WriteHouse,
  scope: CustomerScope,
  person: string,
): Promise<{ ended: number }> =>
  write(house, scope, [], async (tx) => {
    const { id } = scope.customer;
    const row = await tx.row<{ name: string }>(
      sql`SELECT TRIM(CONCAT(given, ' ', family)) AS name FROM person WHERE customer_id = ${id} AND id = ${person}`,
    );
    if (!row) throw notFound('person');
    await tx.write(sql`DELETE FROM desk_link WHERE customer_id = ${id} AND person_id = ${person}`);
    const ended = await tx.write(
      sql`DELETE FROM desk_session WHERE customer_id = ${id} AND person_id = ${person}`,
    );
    await tx.record({
      action: 'sign out of their desk',
      subject: row.name,
      after: { ended },
      topic: 'people',
      id: person,
    });
    return { ended };
  });

/** Whose desk a cookie opens; undefined: nobody's, it is over, or they have left. */
export async function deskOf(app: App, token: string): Promise<DeskScope | undefined> {
  const row = await app.db.row<{ customer_id: string; code: string; person_id: string; name: string }>(
    sql`SELECT s.customer_id, c.code, s.person_id, TRIM(CONCAT(p.given, ' ', p.family)) AS name FROM desk_session s
        JOIN person p ON (p.customer_id, p.id) = (s.customer_id, s.person_id) AND p.left_at IS NULL
        JOIN customer c ON c.id = s.customer_id AND c.state IN (${join(['active', 'trial', 'leaving'])})
        WHERE s.token_hash = ${hashOf(token)} AND s.until_wall > ${app.clock.wall()}`,
  );
  return row && deskScope({ id: row.customer_id, code: row.code }, { id: row.person_id, name: row.name });
}
