import type { Look } from '../../contract';
import { MSP, SYSTEM, type Scope } from '../access';
import type { App } from '../app';
import { atMost, newId, sql, transaction, type Connection } from '../db';
import { outsideHttp, OutsideError } from '../outside';
import { Problem } from '../problem';
import { watch } from '../watch';
import { write } from '../write';
import { signedEvent, type Told } from './sign';
import { refuseFewer, targetOf, type Target } from './target';

export { keepTarget, readTarget, sealTargetAnew } from './target';

/** So many are sent each time; what is not taken is tried again after a rest that grows. */
const MOST_AT_ONCE = 50;
const REST_MS = 5_000;
const LONGEST_MS = 10 * 60_000;
/** What nobody took for so long is told no more. */
const GIVEN_UP_AFTER = 60;
/** The same of what is refused while others are taken: more tries hardly make it welcome. */
const REFUSED_AFTER = 5;

/** Notes what has begun and ceased to need a look, and tells it where the MSP wants it told, in order. */
export async function tellOutside(app: App): Promise<void> {
  const target = await targetOf(app);
  if (!target) return;
  await noteChanges(app);
  await sendWaiting(app, target);
}

async function noteChanges(app: App): Promise<void> {
  const now = app.clock.now();
  const { looks } = await watch(app.db, SYSTEM, now);
  const ids = await idsByCode(app.db);
  await transaction(app.db, async (tx) => {
    const known = await tx.rows<{ customer_id: string; look_key: string; body: string }>(
      sql`SELECT customer_id, look_key, body FROM notice_look FOR UPDATE`,
    );
    const before = new Set(known.map((one) => one.look_key));
    const present = new Set(looks.map((one) => one.key));
    for (const look of looks)
      if (!before.has(look.key)) {
        const owner = (look.customer === null ? undefined : ids.get(look.customer)) ?? MSP.id;
        const data = dataOf(look);
        await tx.write(
          sql`INSERT INTO notice_look (customer_id, look_key, body) VALUES (${owner}, ${look.key}, ${JSON.stringify(data)})`,
        );
        await note(tx, owner, { type: 'laager.look.opened', subject: look.key, at: now, data });
      }
    for (const { customer_id, look_key, body } of known)
      if (!present.has(look_key)) {
        await tx.write(
          sql`DELETE FROM notice_look WHERE customer_id = ${customer_id} AND look_key = ${look_key}`,
        );
        const data = JSON.parse(body) as Told['data'];
        await note(tx, customer_id, { type: 'laager.look.closed', subject: look_key, at: now, data });
      }
  });
}

const dataOf = ({ says, people, harm, since, customers, href, helps }: Look): Told['data'] => ({
  says,
  people,
  harm,
  since: since === null ? null : new Date(since).toISOString(),
  customers,
  href,
  helps,
});

const note = (tx: Connection, customer: string, told: Omit<Told, 'id'>): Promise<unknown> => {
  const id = newId();
  return tx.write(
    sql`INSERT INTO notice (customer_id, id, event, due_wall) VALUES (${customer}, ${id}, ${JSON.stringify({ ...told, id })}, 0)`,
  );
};

async function idsByCode(db: Connection): Promise<ReadonlyMap<string, string>> {
  const rows = await db.rows<{ id: string; code: string }>(sql`SELECT id, code FROM customer`);
  return new Map(rows.map(({ id, code }) => [code, id]));
}

/**
 * In order where it matters: what ceases is not told before what began. One that is refused keeps back only what is told of
 * the same; where nobody answers, nothing else is tried.
 */
async function sendWaiting(app: App, target: Target): Promise<void> {
  const waiting = await app.db.rows<{
    customer_id: string;
    id: string;
    event: string;
    due: number;
    tries: number;
  }>(
    sql`SELECT customer_id, id, event, due_wall AS due, tries FROM notice ORDER BY id ${atMost(MOST_AT_ONCE)}`,
  );
  const heldBack = new Set<string>();
  for (const { customer_id, id, event, due, tries } of waiting) {
    const wall = app.clock.wall();
    const told = JSON.parse(event) as Told;
    if (heldBack.has(told.subject)) continue;
    if (due > wall) {
      heldBack.add(told.subject);
      continue;
    }
    const { trouble, isRefused } = await send(app, target, told);
    const which = sql`customer_id = ${customer_id} AND id = ${id}`;
    if (trouble === '' || tries + 1 >= (isRefused ? REFUSED_AFTER : GIVEN_UP_AFTER))
      await app.db.write(sql`DELETE FROM notice WHERE ${which}`);
    else
      await app.db.write(
        sql`UPDATE notice SET tries = tries + 1,
              due_wall = ${wall + Math.min(LONGEST_MS, REST_MS * 2 ** Math.min(tries, 10))} WHERE ${which}`,
      );
    await app.db.write(
      sql`UPDATE notice_target SET trouble = ${trouble.slice(0, 255)},
            sent_at = IF(${trouble === ''}, ${app.clock.now()}, sent_at)`,
    );
    if (trouble !== '' && !isRefused) return;
    if (trouble !== '') heldBack.add(told.subject);
  }
}

/** What came of sending. */
interface Sent {
  /** What kept it from being taken; empty: it was taken. */
  readonly trouble: string;
  /** Whether it is this one that is not taken, and others may be. */
  readonly isRefused: boolean;
}

/** Answers that would be given to any other one too: who we are is not known, there is no such address, too many, too slow. */
const OF_ALL: ReadonlySet<number> = new Set([401, 403, 404, 405, 407, 408, 410, 425, 429]);

const sentWith = (status: number): Sent =>
  status < 300
    ? { trouble: '', isRefused: false }
    : { trouble: `answered ${status}`, isRefused: status >= 400 && status < 500 && !OF_ALL.has(status) };

async function send(app: App, { address, secret }: Target, told: Told): Promise<Sent> {
  const { origin, pathname, search } = new URL(address);
  try {
    const signed = await signedEvent(told, app.address ?? 'urn:laager', address, secret, app.clock.wall());
    const reply = await outsideHttp('notices', origin)('POST', pathname + search, {
      text: { body: signed.body, type: signed.type },
      headers: signed.headers,
      noAnswer: true,
    });
    return sentWith(reply.status);
  } catch (error) {
    if (!(error instanceof OutsideError)) throw error;
    return { trouble: error.says, isRefused: false };
  }
}

/** Sends an event of no consequence. @throws Problem 409 where nothing is told anywhere */
export async function tryTarget(
  app: App,
  scope: Scope,
): Promise<{ readonly worked: boolean; readonly says: string }> {
  refuseFewer(scope);
  const target = await targetOf(app);
  if (!target) throw new Problem(409, 'nowhere', 'Say first where notices go.');
  const { trouble } = await send(app, target, {
    id: newId(),
    type: 'laager.notice.tried',
    subject: 'try',
    at: app.clock.now(),
    data: { says: 'Somebody tries whether notices are taken.' },
  });
  // Sent again with its key, nothing is sent to them a second time.
  return write(app, scope, [], () =>
    Promise.resolve({ worked: trouble === '', says: trouble === '' ? 'was taken' : trouble }),
  );
}
