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
/** Who was mailed a link so recently has it: however often somebody asks, it is the one that works. */
const REPEAT_MS = 60_000;
const MOST_AT_ONCE = 100;
/** What the mail service did not take rests for so long. */
const REST_MS = 5_000;

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
 * Mails what was asked for, in order. What is refused for good is asked for no more; what cannot be mailed now rests, so that it
 * keeps nobody else waiting.
 * @throws OutsideError when the mail service did not take one; it is asked for still
 */
export async function mailAsked(app: App): Promise<void> {
  if (app.address === undefined) return;
  const wall = app.clock.wall();
  await app.db.write(sql`DELETE FROM desk_ask WHERE until_wall <= ${wall}`);
  await app.db.write(sql`DELETE FROM desk_link WHERE until_wall < ${wall} LIMIT 1000`);
  const asked = await app.db.rows<Ask>(
    sql`SELECT id, mail FROM desk_ask WHERE due_wall <= ${wall} ORDER BY id ${atMost(MOST_AT_ONCE)}`,
  );
  for (const ask of asked) {
    const which = sql`customer_id = ${MSP.id} AND id = ${ask.id}`;
    try {
      await mailLinks(app, app.address, ask);
    } catch (error) {
      if (!(error instanceof OutsideError)) throw error;
      if (error.trouble === 'passing') {
        await app.db.write(sql`UPDATE desk_ask SET due_wall = ${wall + REST_MS} WHERE ${which}`);
        throw error;
      }
    }
    await app.db.write(sql`DELETE FROM desk_ask WHERE ${which}`);
  }
}

interface Ask {
  readonly id: string;
  readonly mail: string;
}

/** Mails a way in to whoever has this address, at each customer where they do; to each once, however often it is tried. */
async function mailLinks(app: App, address: string, { id: ask, mail }: Ask): Promise<void> {
  const people = await app.db.rows<{
    id: string;
    customer_id: string;
    name: string;
    given: string;
    mail: string;
  }>(
    sql`SELECT p.id, p.customer_id, c.name, p.given, p.mail FROM person p JOIN customer c ON c.id = p.customer_id
        WHERE p.mail = ${mail} AND p.left_at IS NULL AND c.state IN ('active','trial','leaving')
          AND NOT EXISTS (SELECT 1 FROM desk_identity d WHERE d.customer_id = c.id AND d.only_there)
          AND NOT EXISTS (SELECT 1 FROM desk_link l WHERE (l.customer_id, l.person_id) = (p.customer_id, p.id)
            AND l.until_wall > ${app.clock.wall() + LINK_MS - REPEAT_MS} AND NOT l.ask_id <=> ${ask}) ORDER BY p.id
        ${atMost(MOST_LINKS)}`,
  );
  for (const { id, customer_id, name, given, mail: stored } of people) {
    const link = newToken();
    await app.db.write(
      sql`INSERT INTO desk_link (token_hash, customer_id, person_id, until_wall, ask_id)
          VALUES (${hashOf(link)}, ${customer_id}, ${id}, ${app.clock.wall() + LINK_MS}, ${ask})`,
    );
    const to = new URL(`/desk/in/${link}`, address).href;
    await app.mail.send(`desk ${ask} ${id}`, {
      // To the address that is theirs, whatever was typed.
      to: [stored],
      subject: `Your desk at ${name}`,
      body: `${given}, here is the way to your desk: ${to}\nIt is good once, for half an hour. If you did not ask for it, leave it be.`,
    });
  }
}
