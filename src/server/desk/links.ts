import { MSP } from '../access';
import type { App } from '../app';
import { atMost, newId, sql } from '../db';
import { hashOf } from '../operators';
import { OutsideError } from '../outside';
import { Problem } from '../problem';
import { newToken } from './session';

const LINK_MS = 30 * 60_000;
/** Somebody may have one address at several customers; no more than so many ways in are sent at once. */
const MOST_LINKS = 5;
const MOST_AT_ONCE = 100;

/**
 * Notes that somebody wants a way in by mail. Whether anybody has the address is looked at afterwards, by a worker: how long
 * the answer takes says nothing of it, and a mail service that is silent for a while loses nobody's.
 * @throws Problem 503 where it is not said at which address people reach us
 */
export async function askForLink(app: App, mail: string): Promise<void> {
  if (app.address === undefined)
    throw new Problem(
      503,
      'address',
      'No links are mailed here: nobody has said at which address people come in.',
    );
  await app.db.write(
    sql`INSERT INTO desk_ask (customer_id, id, mail, until_wall)
        VALUES (${MSP.id}, ${newId()}, ${mail}, ${app.clock.wall() + LINK_MS})`,
  );
}

/**
 * Mails what was asked for, in order. What is refused for good is asked for no more.
 * @throws OutsideError while the mail service takes nothing; then it is asked for still
 */
export async function mailAsked(app: App): Promise<void> {
  if (app.address === undefined) return;
  const wall = app.clock.wall();
  await app.db.write(sql`DELETE FROM desk_ask WHERE until_wall <= ${wall}`);
  await app.db.write(sql`DELETE FROM desk_link WHERE until_wall < ${wall} LIMIT 1000`);
  const asked = await app.db.rows<{ id: string; mail: string }>(
    sql`SELECT id, mail FROM desk_ask ORDER BY id ${atMost(MOST_AT_ONCE)}`,
  );
  for (const { id, mail } of asked) {
    try {
      await mailLinks(app, app.address, mail);
    } catch (error) {
      if (!(error instanceof OutsideError) || error.trouble === 'passing') throw error;
    }
    await app.db.write(sql`DELETE FROM desk_ask WHERE customer_id = ${MSP.id} AND id = ${id}`);
  }
}

/** Mails a way in to whoever has this address, at each customer where they do. */
async function mailLinks(app: App, address: string, mail: string): Promise<void> {
  const people = await app.db.rows<{
    id: string;
    customer_id: string;
    name: string;
    given: string;
  }>(
    sql`SELECT p.id, p.customer_id, c.name, p.given FROM person p JOIN customer c ON c.id = p.customer_id
        WHERE p.mail = ${mail} AND p.left_at IS NULL AND c.state IN ('active','trial','leaving')
          AND NOT EXISTS (SELECT 1 FROM desk_identity d WHERE d.customer_id = c.id AND d.only_there) ORDER BY p.id
        ${atMost(MOST_LINKS)}`,
  );
  for (const { id, customer_id, name, given } of people) {
    const link = newToken();
    await app.db.write(
      sql`INSERT INTO desk_link (token_hash, customer_id, person_id, until_wall)
          VALUES (${hashOf(link)}, ${customer_id}, ${id}, ${app.clock.wall() + LINK_MS})`,
    );
    const to = new URL(`/desk/in/${link}`, address).href;
    await app.mail.send(`desk ${hashOf(link).slice(0, 32)}`, {
      to: [mail],
      subject: `Your desk at ${name}`,
      body: `${given}, here is the way to your desk: ${to}\nIt is good once, for half an hour. If you did not ask for it, leave it be.`,
    });
  }
}
