import type { ActImpact, SessionKey, SessionProgram } from '../../contract';
import {
  actLine,
  plannedActs,
  sessionAct,
  type PlannedAct,
  type SessionActKey,
} from '../../core/session-acts';
import { readAs } from '../../core/message-texts';
import { SYSTEM, within, type CustomerScope, type Scope } from '../access';
import type { App } from '../app';
import { insertMany, newId, sql, type Connection, type Sql } from '../db';
import { OutsideError } from '../outside';
import { WHOSE_SESSION } from '../present';
import { notFound, unusable } from '../problem';
import { enterEach } from './inside';
import { write } from '../write';

export { listActs } from './read';

export interface AskedAct {
  readonly act: SessionActKey;
  readonly sessions: readonly SessionKey[];
  readonly text: string;
  readonly minutes: number;
}

interface Found {
  readonly customer_id: string;
  readonly code: string;
  readonly name: string;
  readonly hue: number;
  readonly shape: number;
  readonly pattern: number;
  readonly provider_code: string;
  readonly id: string;
  readonly account: string;
  /** Empty: nobody knows. */
  readonly person: string;
  readonly host: string;
}

/** Those of the sessions that are there still and in reach. */
async function foundOf(db: Connection, scope: Scope, sessions: readonly SessionKey[]): Promise<Found[]> {
  const wanted = new Set(sessions.map((one) => `${one.customer} ${one.provider} ${one.id}`));
  const found: Found[] = [];
  for (let at = 0; at < sessions.length; at += CHUNK) {
    const some = sessions.slice(at, at + CHUNK);
    found.push(
      ...(await db.rows<Found>(
        sql`SELECT s.customer_id, c.code, c.name, c.mark_hue AS hue, c.mark_shape AS shape, c.mark_pattern AS pattern,
              s.provider_code, s.id, s.account, TRIM(CONCAT(COALESCE(p.given, ''), ' ', COALESCE(p.family, ''))) AS person,
              o.name AS host
            FROM session s JOIN customer c ON c.id = s.customer_id AND c.kind = 'customer'
            JOIN present_resource o ON (o.customer_id, o.provider_code, o.ref) = (s.customer_id, s.provider_code, s.host_ref)
            LEFT JOIN person p ON ${WHOSE_SESSION}
            WHERE ${within(scope, 's.customer_id')} AND (${pairs(some)})`,
      )),
    );
  }
  // Somebody else's session of the same id is not what was chosen.
  return found.filter((one) => wanted.has(`${one.code} ${one.provider_code} ${one.id}`));
}

const CHUNK = 500;

function pairs(sessions: readonly SessionKey[]): Sql {
  const [first, ...others] = sessions.map(
    ({ provider, id }) => sql`(s.provider_code = ${provider} AND s.id = ${id})`,
  );
  return others.reduce<Sql>((all, one) => sql`${all} OR ${one}`, first ?? sql`FALSE`);
}

function impactOf(
  found: readonly Found[],
  asked: AskedAct,
  planned: readonly (readonly PlannedAct[])[],
): ActImpact {
  const act = sessionAct(asked.act);
  const customers = new Map<string, ActImpact['customers'][number]>();
  for (const { code, name, hue, shape, pattern } of found) {
    const before = customers.get(code);
    customers.set(code, {
      code,
      name,
      mark: { code, hue, shape, pattern },
      people: (before?.people ?? 0) + 1,
    });
  }
  const hosts = new Set(found.map((one) => `${one.provider_code} ${one.host}`)).size;
  const people = found.length;
  return {
    people,
    hosts,
    customers: [...customers.values()].sort((a, b) => b.people - a.people || a.code.localeCompare(b.code)),
    gone: asked.sessions.length - people,
    endsWork: act.endsWork,
    reads: readBy(found[0], planned[0]),
    line: actLine(asked.act, { people, hosts, customers: customers.size, minutes: asked.minutes }),
  };
}

const calledIn = ({ person, account }: Found): string => (person === '' ? account : person);

function readBy(one: Found | undefined, planned: readonly PlannedAct[] = []): ActImpact['reads'] {
  const said = planned.find(({ act }) => act === 'message');
  return one && said && said.text !== '' ? { name: calledIn(one), text: said.text } : null;
}

/** What comes to one session, with what is said as its person reads it. @throws Problem 422 beside `text` */
function actsFor(one: Found, asked: AskedAct, now: number): PlannedAct[] {
  const { warns } = sessionAct(asked.act);
  const values = {
    person: calledIn(one),
    customer: one.name,
    host: one.host,
    ...(warns ? { minutes: String(asked.minutes) } : {}),
  };
  return plannedActs(asked, now).map((planned) => {
    if (planned.act !== 'message') return planned;
    const read = readAs(planned.text, values);
    if (!read.ok) throw unusable('text', read.problem);
    return { ...planned, text: read.value };
  });
}

/** Whom an act would touch, and what they would read; nothing is done. @throws Problem 422 beside `text` */
export async function proposeAct(app: App, scope: Scope, asked: AskedAct): Promise<ActImpact> {
  const found = await foundOf(app.db, scope, asked.sessions);
  return impactOf(
    found,
    asked,
    found.map((one) => actsFor(one, asked, 0)),
  );
}

/**
 * Has an act done to sessions: what was planned is kept, and done by a worker, also when this process ends. Each customer's
 * own trail tells of theirs.
 */
export async function beginAct(
  app: App,
  scope: Scope,
  asked: AskedAct & { readonly reason: string },
): Promise<ActImpact> {
  const found = await foundOf(app.db, scope, asked.sessions);
  const now = app.clock.now();
  const planned = new Map(found.map((one) => [one, actsFor(one, asked, now)]));
  const { verb } = sessionAct(asked.act);
  const each = await enterEach(app, scope, found);
  return write(app, scope, [], async (tx) => {
    for (const [inside, own] of each) {
      await insertMany(
        tx,
        'session_act',
        COLUMNS,
        own.flatMap((one) => (planned.get(one) ?? []).map((act) => rowOf(one, act, scope))),
      );
      await tx.inside(inside).record({
        action: verb.toLowerCase(),
        subject:
          own.length === 1 ? `${own[0]?.account ?? ''} on ${own[0]?.host ?? ''}` : `${own.length} sessions`,
        after: {
          sessions: own.slice(0, 50).map(({ account, host }) => `${account} on ${host}`),
          ...(asked.text === '' ? {} : { says: asked.text }),
          ...(asked.minutes > 0 ? { minutes: asked.minutes } : {}),
        },
        reason: asked.reason,
        topic: 'environment',
        id: inside.customer.id,
      });
    }
    return impactOf(found, asked, [...planned.values()]);
  });
}

const COLUMNS = [
  'customer_id',
  'id',
  'provider_code',
  'session_id',
  'account',
  'host',
  'act',
  'text',
  'due_at',
  'actor',
] as const;

const rowOf = (one: Found, { act, text, at }: PlannedAct, { actor }: Scope): (string | number)[] => [
  one.customer_id,
  newId(),
  one.provider_code,
  one.id,
  one.account,
  one.host,
  act,
  text,
  at,
  actor.name,
];

/** Somebody who left is looked for so long; by then nobody is in any more under what was theirs. */
const LEFT_MS = 7 * 24 * 60 * 60_000;

/** Sessions of those who left the directory end at once, also when their account is somebody else's by then. */
export async function endLeavers(app: App): Promise<void> {
  const now = app.clock.now();
  const rows = await app.db.rows<{ customer_id: string; code: string; provider: string; id: string }>(
    sql`SELECT s.customer_id, c.code, s.provider_code AS provider, s.id FROM person p
        JOIN session s ON s.customer_id = p.customer_id AND s.account = p.account
        JOIN customer c ON c.id = p.customer_id
        WHERE p.left_at > ${now - LEFT_MS}
          AND NOT EXISTS (SELECT 1 FROM person o WHERE o.customer_id = p.customer_id AND o.held_account = p.account
            AND o.account_since <= s.since)
          AND NOT EXISTS (SELECT 1 FROM session_act a WHERE a.customer_id = s.customer_id
            AND a.provider_code = s.provider_code AND a.session_id = s.id AND a.act = 'sign-out' AND a.state <> 'failed')
        ORDER BY s.customer_id, s.id LIMIT ${MOST_AT_ONCE}`,
  );
  if (rows.length === 0) return;
  const sessions = rows.map(({ code, provider, id }) => ({ customer: code, provider, id }));
  await beginAct(app, SYSTEM, {
    act: 'sign-out',
    sessions,
    text: '',
    minutes: 0,
    reason: 'left the directory',
  });
}

const MOST_AT_ONCE = 200;

interface Due {
  readonly customer_id: string;
  readonly id: string;
  readonly provider_code: string;
  readonly session_id: string;
  readonly act: SessionActKey;
  readonly text: string;
  /** Whether it is still that session, of that person. */
  readonly there: number;
}

const OVER = { state: 'done', says: 'it was over already' } as const;

/** Does what is due. What the provider cannot be asked for now stays due; a session that is over is done with. */
export async function doActs(app: App): Promise<void> {
  await endLeavers(app);
  const due = await app.db.rows<Due>(
    sql`SELECT customer_id, id, provider_code, session_id, act, text,
          EXISTS (SELECT 1 FROM session s WHERE s.customer_id = session_act.customer_id
            AND s.provider_code = session_act.provider_code AND s.id = session_act.session_id
            AND s.account = session_act.account) AS there FROM session_act
        WHERE state = 'waiting' AND due_at <= ${app.clock.now()} ORDER BY due_at, id LIMIT ${MOST_AT_ONCE}`,
  );
  // Who does not answer is asked once: the others are not kept waiting.
  const silent = new Set<string>();
  for (const one of due) {
    if (silent.has(one.provider_code)) continue;
    // By then a provider may have given the id to another session, another customer's even: that is not theirs who was chosen.
    const outcome = one.there === 0 ? OVER : await done(app, one);
    if (outcome === undefined) {
      silent.add(one.provider_code);
      continue;
    }
    await app.db.write(
      sql`UPDATE session_act SET state = ${outcome.state}, says = ${outcome.says.slice(0, 255)}
          WHERE customer_id = ${one.customer_id} AND id = ${one.id} AND state = 'waiting'`,
    );
  }
}

/** Undefined: it is tried again. */
async function done(
  app: App,
  { id, provider_code, session_id, act, text }: Due,
): Promise<{ readonly state: 'done' | 'failed'; readonly says: string } | undefined> {
  try {
    const { port } = await app.providers.named(provider_code);
    switch (act) {
      case 'message':
        await port.messageSession(session_id, id, text);
        break;
      case 'disconnect':
        await port.disconnect(session_id);
        break;
      case 'sign-out':
        await port.endSession(session_id);
        break;
      case 'end-program':
        await port.endProgram(session_id, text);
    }
    return { state: 'done', says: '' };
  } catch (error) {
    if (!(error instanceof OutsideError)) throw error;
    return error.trouble === 'passing' ? undefined : { state: 'failed', says: error.says };
  }
}

const KEEP_MS = 7 * 24 * 60 * 60_000;

/** What was done is told for a week; the trail tells it as long as it is kept. */
export const forgetActs = (app: App): Promise<number> =>
  app.db.write(
    sql`DELETE FROM session_act WHERE state <> 'waiting' AND due_at < ${app.clock.now() - KEEP_MS} LIMIT 5000`,
  );

/** Nobody's account is kept in what was done once a customer's data go. */
export const forgetActsOf = (tx: Connection, { customer }: CustomerScope): Promise<number> =>
  tx.write(sql`DELETE FROM session_act WHERE customer_id = ${customer.id}`);

/** What runs in a session now. @throws Problem 404 */
export async function programsIn(
  app: App,
  scope: CustomerScope,
  provider: string,
  session: string,
): Promise<SessionProgram[]> {
  const known = await app.db.row(
    sql`SELECT 1 AS known FROM session WHERE customer_id = ${scope.customer.id} AND provider_code = ${provider}
        AND id = ${session}`,
  );
  if (!known) throw notFound('session');
  const { port } = await app.providers.named(provider);
  return port.programs(session);
}
