import { MAY_LOOK, type LookAlongTold } from '../../contract';
import { MINUTE } from '../../core/calendar';
import {
  ANSWER_MS,
  isDone,
  LOOK_MS,
  mayAskFrom,
  onward,
  type Answer,
  type LookAlong,
} from '../../core/look-along';
import { systemScope, withoutRequest, type CustomerScope } from '../access';
import type { App } from '../app';
import { newId, sql, type Connection } from '../db';
import { OutsideError } from '../outside';
import { mayStill } from '../operators';
import { conflict, notFound, Problem } from '../problem';
import { write } from '../write';

/** A session as a path names it. */
export interface SessionPlace {
  readonly provider: string;
  readonly session: string;
}

interface Stored extends LookAlong {
  readonly id: string;
  readonly operator: string;
  readonly byName: string;
  readonly account: string;
}

/**
 * Asks somebody, in their session, whether one may look along. Whoever asks again gets what is asked already: so it is
 * sent again safely, with the same key or without.
 * @throws Problem 404; 409 while somebody else looks along, and for a while after a no; 503 when the session cannot be reached
 */
export async function askToLook(
  app: App,
  scope: CustomerScope,
  place: SessionPlace,
  reason: string,
): Promise<LookAlongTold> {
  const { actor, customer } = scope;
  // What was kept of the first time would be answered without asking them, where they could not be asked then.
  const asked = await write(
    app,
    withoutRequest(scope),
    [{ table: 'customer', key: { id: customer.id } }],
    async (tx) => {
      const known = await tx.row<{ account: string }>(
        sql`SELECT account FROM session WHERE customer_id = ${customer.id} AND provider_code = ${place.provider}
          AND id = ${place.session}`,
      );
      if (!known) throw notFound('session');
      const before = (await latest(tx, scope, place)).map((one) => ({
        ...one,
        ...onward(one, answerOf(one), app.clock.wall()),
      }));
      const open = before.find((one) => !isDone(one));
      if (open?.operator === actor.id) return open;
      if (open) throw conflict('looked-along', `${open.byName} looks along there already, or has asked to.`);
      const minutes = Math.ceil((mayAskFrom(before) - app.clock.wall()) / MINUTE);
      if (minutes > 0)
        throw conflict(
          'left-in-peace',
          `They were asked lately and did not say yes. They can be asked again in ${minutes === 1 ? 'a minute' : `${minutes} minutes`}.`,
        );
      const look: Stored = {
        id: newId(),
        state: 'asked',
        askedAt: app.clock.wall(),
        since: null,
        operator: actor.id,
        byName: actor.name,
        account: known.account,
      };
      await tx.write(
        sql`INSERT INTO look_along (customer_id, id, provider_code, session_id, account, operator_id, by_name, state, asked_wall)
          VALUES (${customer.id}, ${look.id}, ${place.provider}, ${place.session}, ${known.account}, ${actor.id},
            ${actor.name}, 'asked', ${look.askedAt})`,
      );
      await tx.record({
        action: 'ask to look along',
        subject: known.account,
        reason,
        topic: 'people',
        id: customer.code,
      });
      return look;
    },
  );
  if (asked.state === 'looking') return told(asked, null);
  try {
    const { port } = await app.providers.named(place.provider);
    await port.askToLook(place.session, {
      id: asked.id,
      account: asked.account,
      by: actor.name,
      answerMs: ANSWER_MS,
      lookMs: LOOK_MS,
    });
  } catch (error) {
    if (!(error instanceof OutsideError)) throw error;
    // What may have come to them all the same stays asked: asked again, it is the same.
    if (error.trouble === 'lasting') await move(app, scope, asked, { ...asked, state: 'over' });
    throw new Problem(503, 'outside', `They cannot be asked: ${error.says}.`);
  }
  return told(asked, null);
}

/** What is known without asking again. */
const answerOf = ({ state }: LookAlong): Answer => (state === 'looking' ? 'yes' : 'none');

/**
 * What they said. Where one looks is told to whoever asked, and to nobody else.
 * @throws Problem 404
 */
export async function readLook(
  app: App,
  scope: CustomerScope,
  place: SessionPlace,
  id: string,
): Promise<LookAlongTold> {
  const before = (await latest(app.db, scope, place)).find((one) => one.id === id);
  if (!before) throw notFound('look along');
  if (isDone(before)) return told(before, null);
  const { after, address } = await advance(app, scope, place, before);
  return told(after, after.state === 'looking' && after.operator === scope.actor.id ? address : null);
}

interface Advanced {
  readonly after: Stored;
  readonly address: string | null;
}

/** Notes what they said since; what is over here is over there too. */
async function advance(
  app: App,
  scope: CustomerScope,
  place: SessionPlace,
  before: Stored,
): Promise<Advanced> {
  // Who may not be there any more, or has signed out everywhere, looks no longer.
  const isAllowed = await mayStill(app.db, before.operator, scope, {
    right: MAY_LOOK,
    wall: app.clock.wall(),
  });
  const { answer, address } = isAllowed
    ? await askedThere(app, scope, place, before)
    : ({ answer: 'over', address: null } as const);
  const after: Stored = { ...before, ...onward(before, answer, app.clock.wall()) };
  if (after.state === before.state) return { after, address };
  await move(app, scope, before, after);
  if (isDone(after)) await passingOver(endThere(app, place, before.id));
  return { after, address };
}

/** So many are followed at once. */
const MOST_FOLLOWED = 200;

/** Follows those that nobody reads any more: what was said, and that it ended, stands on the trail all the same. */
export async function followLooks(app: App): Promise<void> {
  const open = await app.db.rows<
    Stored & {
      readonly customer_id: string;
      readonly code: string;
      readonly provider: string;
      readonly session: string;
    }
  >(
    sql`SELECT ${LOOK}, l.customer_id, c.code, l.provider_code AS provider, l.session_id AS session
        FROM look_along l JOIN customer c ON c.id = l.customer_id
        WHERE l.state IN ('asked','looking') ORDER BY l.asked_wall LIMIT ${MOST_FOLLOWED}`,
  );
  for (const { customer_id, code, provider, session, ...look } of open)
    await advance(app, systemScope({ id: customer_id, code }), { provider, session }, look);
}

/** Ends it, whoever asked for it. @throws Problem 404; 503 when it cannot be ended there now */
export async function endLook(
  app: App,
  scope: CustomerScope,
  place: SessionPlace,
  id: string,
): Promise<void> {
  const before = (await latest(app.db, scope, place)).find((one) => one.id === id);
  if (!before) throw notFound('look along');
  try {
    await endThere(app, place, id);
  } catch (error) {
    if (!(error instanceof OutsideError) || error.trouble === 'lasting') throw error;
    const says = `It cannot be ended there now: ${error.says}. They can end it, and it ends by itself.`;
    throw new Problem(503, 'outside', says);
  }
  // Said to be over only once it is.
  if (!isDone(before)) await move(app, scope, before, { ...before, state: 'over' });
}

/**
 * What they say of it now. By then a provider may have given the session's id to somebody else, another customer's even:
 * that is nobody who was asked. A provider that cannot be asked now has said nothing new.
 */
async function askedThere(
  app: App,
  { customer }: CustomerScope,
  { provider, session }: SessionPlace,
  look: Stored,
): Promise<{ readonly answer: Answer; readonly address: string | null }> {
  const isTheirs = await app.db.row(
    sql`SELECT 1 AS is_theirs FROM session WHERE customer_id = ${customer.id} AND provider_code = ${provider}
        AND id = ${session} AND account = ${look.account}`,
  );
  if (!isTheirs) return { answer: 'over', address: null };
  try {
    const { port } = await app.providers.named(provider);
    return await port.lookAlong(session, look.id);
  } catch (error) {
    if (!(error instanceof OutsideError)) throw error;
    return { answer: error.trouble === 'lasting' ? 'over' : answerOf(look), address: null };
  }
}

async function endThere(app: App, { provider, session }: SessionPlace, id: string): Promise<void> {
  const { port } = await app.providers.named(provider);
  await port.endLook(session, id);
}

/** What cannot be done outside now is done there by itself, when its time is over. */
async function passingOver(work: Promise<void>): Promise<void> {
  try {
    await work;
  } catch (error) {
    if (!(error instanceof OutsideError)) throw error;
  }
}

const LOOK = sql`l.id, l.state, l.asked_wall AS askedAt, l.since_wall AS since, l.operator_id AS operator,
  l.by_name AS byName, l.account`;

const latest = (db: Connection, { customer }: CustomerScope, place: SessionPlace): Promise<Stored[]> =>
  db.rows<Stored>(
    sql`SELECT ${LOOK} FROM look_along l WHERE l.customer_id = ${customer.id} AND l.provider_code = ${place.provider}
          AND l.session_id = ${place.session} ORDER BY l.id DESC LIMIT 20`,
  );

const WORDS = {
  looking: 'look along',
  refused: 'look along refused',
  unanswered: 'look along unanswered',
  over: 'look along ended',
} as const;

/** Keeps how it goes on, once, and says so on the trail: whoever comes second finds it done. */
const move = (app: App, scope: CustomerScope, before: Stored, after: Stored): Promise<void> =>
  write(app, scope, [], async (tx) => {
    const moved = await tx.write(
      sql`UPDATE look_along SET state = ${after.state}, since_wall = ${after.since}
          WHERE customer_id = ${scope.customer.id} AND id = ${before.id} AND state = ${before.state}`,
    );
    if (moved === 0 || after.state === 'asked') return;
    await tx.record({
      action: WORDS[after.state],
      subject: before.account,
      after: { by: before.byName },
      topic: 'people',
      id: scope.customer.code,
    });
  });

const SAYS = {
  asked: 'They are asked in their session',
  looking: 'They let you look along, and see that you do',
  refused: 'They said no',
  unanswered: 'They did not answer',
  over: 'It is over',
} as const;

const told = ({ id, state, askedAt, since }: Stored, address: string | null): LookAlongTold => ({
  id,
  state,
  says: SAYS[state],
  askedAt,
  since,
  address,
});

const KEEP_MS = 7 * 24 * 60 * 60_000;

/** The trail tells of it as long as it is kept. */
export const forgetLooks = (app: App): Promise<number> =>
  app.db.write(sql`DELETE FROM look_along WHERE asked_wall < ${app.clock.wall() - KEEP_MS} LIMIT 5000`);

/** Nobody's account is kept once a customer's data go. */
export const forgetLooksOf = (tx: Connection, { customer }: CustomerScope): Promise<number> =>
  tx.write(sql`DELETE FROM look_along WHERE customer_id = ${customer.id}`);
