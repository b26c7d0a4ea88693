import { randomBytes } from 'node:crypto';
import { deskScope, type CustomerScope, type DeskScope } from '../access';
import type { App } from '../app';
import { join, sql, transaction, type Connection } from '../db';
import { hashOf } from '../operators';
import { Problem } from '../problem';
import { writeTrail } from '../trail';

export const DESK_COOKIE = 'laager_desk';

const LINK_MS = 30 * 60_000;
export const DESK_SESSION_MS = 12 * 60 * 60_000;
/** Somebody may have one address at several customers; no more than so many ways in are sent at once. */
const MOST_LINKS = 5;

const newToken = (): string => randomBytes(32).toString('base64url');

/**
 * Mails a way in to whoever has this address, at each customer where they do. It says nothing of whether anybody has.
 * @throws Problem 503 where it is not said at which address people reach us
 */
export async function mailLinks(app: App, mail: string): Promise<void> {
  if (app.address === undefined)
    throw new Problem(
      503,
      'address',
      'No links are mailed here: nobody has said at which address people come in.',
    );
  const people = await app.db.rows<{
    id: string;
    customer_id: string;
    code: string;
    name: string;
    given: string;
  }>(
    sql`SELECT p.id, p.customer_id, c.code, c.name, p.given FROM person p JOIN customer c ON c.id = p.customer_id
        WHERE p.mail = ${mail} AND p.left_at IS NULL AND c.state IN ('active','trial','leaving')
          AND NOT EXISTS (SELECT 1 FROM desk_identity d WHERE d.customer_id = c.id AND d.only_there) ORDER BY p.id
        LIMIT ${MOST_LINKS}`,
  );
  for (const { id, customer_id, name, given } of people) {
    const link = newToken();
    await app.db.write(
      sql`INSERT INTO desk_link (token_hash, customer_id, person_id, until_wall)
          VALUES (${hashOf(link)}, ${customer_id}, ${id}, ${app.clock.wall() + LINK_MS})`,
    );
    const to = new URL(`/desk/in/${link}`, app.address).href;
    await app.mail.send(`desk ${hashOf(link).slice(0, 32)}`, {
      to: [mail],
      subject: `Your desk at ${name}`,
      body: `${given}, here is the way to your desk: ${to}\nIt is good once, for half an hour. If you did not ask for it, leave it be.`,
    });
  }
  await app.db.write(sql`DELETE FROM desk_link WHERE until_wall < ${app.clock.wall()} LIMIT 1000`);
}

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
