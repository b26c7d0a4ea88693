import { createHash, randomBytes } from 'node:crypto';
import { text } from '../kit/read';
import { Refusal, type Answer, type Call, type Handler, type Routes } from '../kit/server';
import { silentHosts } from './ailment';
import { listOf } from './images';
import { lookBanner, lookRoutes } from './looks-along';
import type { Resource } from './resource';
import { keepMoves, type LiveSession, type Session } from './session-record';
import { sessionPage, type Program } from './session-page';
import { newId, type World } from './world';

/** Whoever was signed out stays away so long, before they come again by themselves. */
const AWAY_MS = 45 * 60_000;
/** A ticket lets one person in, within so long by the wall clock. */
const TICKET_MS = 10 * 60_000;

/** What can be done with one session: opened, shown, spoken to, left alone and ended. */
export function sessionRoutes(world: World, guarded: (handler: Handler) => Handler): Routes {
  const { store, clock } = world;
  const live = async (call: Call): Promise<LiveSession> => {
    const found = await store.row<LiveSession>(
      'SELECT id, pool, host, account, state, since, item, ticket, ticket_until, crosses, screen, by_person FROM session WHERE id = ?',
      [call.params.id ?? ''],
    );
    if (!found) throw new Refusal(404, 'no-session', 'there is no such session');
    return found;
  };
  /** Whoever holds the ticket is at the session itself. */
  const ticketed =
    (work: (session: LiveSession, call: Call) => Promise<Answer>): Handler =>
    async (call) => {
      const session = await live(call);
      if (
        session.ticket === '' ||
        call.query.get('ticket') !== session.ticket ||
        Date.now() > session.ticket_until
      )
        throw new Refusal(403, 'ticket', 'this ticket is over: start it from your desk again');
      return work(session, call);
    };
  const screen = async (session: LiveSession, above: string): Promise<string> => {
    const host = await world.find(session.host);
    const messages = await store.rows<{ text: string; at: number }>(
      'SELECT text, at FROM message WHERE host = ? AND session IN (?, ?) AND at >= ? ORDER BY at',
      [session.host, session.id, '', session.since],
    );
    const programs = await programsOf(world, session);
    return sessionPage({ session, host, programs, messages, ticket: session.ticket, above });
  };
  return {
    ...lookRoutes(world, guarded, { live, ticketed, screen }),
    'POST /v1/resources/:id/sessions': guarded(async (call) => {
      const host = await world.present(call.params.id ?? '');
      const session = await open(world, host, text(call, 'account'), text(call, 'item'));
      const ticket = randomBytes(16).toString('hex');
      await store.write(
        'UPDATE session SET ticket = ?, ticket_until = ?, item = ?, crosses = ?, screen = ?, by_person = TRUE WHERE id = ?',
        [
          ticket,
          Date.now() + TICKET_MS,
          text(call, 'item'),
          JSON.stringify(listOf(call.body.crosses)),
          String(call.body.screen ?? ''),
          session.id,
        ],
      );
      return {
        status: 200,
        body: {
          session: {
            id: session.id,
            host: host.id,
            account: session.account,
            state: 'active',
            since: session.since,
          },
          address: `/sessions/${session.id}?ticket=${ticket}`,
          until: Date.now() + TICKET_MS,
        },
      };
    }),
    'POST /v1/sessions/:id/disconnect': guarded(async (call) => {
      const session = await live(call);
      await keepMoves(store, { ended: [], changed: [{ ...session, state: 'idle' }], begun: [] });
      await store.write("UPDATE session SET held = 'idle' WHERE id = ?", [session.id]);
      return { status: 204 };
    }),
    'DELETE /v1/sessions/:id': guarded(async (call) => {
      const session = await live(call);
      await keepMoves(store, { ended: [session], changed: [], begun: [] });
      await store.write('REPLACE INTO away (pool, account, until_at) VALUES (?, ?, ?)', [
        session.pool,
        session.account,
        clock.now() + AWAY_MS,
      ]);
      return { status: 204 };
    }),
    'PUT /v1/sessions/:id/messages/:message': guarded(async (call) => {
      const session = await live(call);
      await store.write('INSERT IGNORE INTO message (host, id, text, at, session) VALUES (?, ?, ?, ?, ?)', [
        session.host,
        `${session.id} ${call.params.message ?? ''}`.slice(0, 64),
        text(call, 'text').slice(0, 500),
        clock.now(),
        session.id,
      ]);
      return { status: 204 };
    }),
    'GET /v1/sessions/:id/programs': guarded(async (call) => ({
      status: 200,
      body: { programs: await programsOf(world, await live(call)) },
    })),
    'DELETE /v1/sessions/:id/programs/:program': guarded(async (call) => {
      const session = await live(call);
      const program = call.params.program ?? '';
      if (!(await programsOf(world, session)).some(({ id }) => id === program))
        throw new Refusal(404, 'no-program', 'it does not run any more');
      await store.write('INSERT IGNORE INTO ended_program (session, program) VALUES (?, ?)', [
        session.id,
        program,
      ]);
      return { status: 204 };
    }),
    'GET /sessions/:id': ticketed(async (session) => ({
      status: 200,
      text: await screen(session, await lookBanner(world, session)),
      headers: { 'content-type': 'text/html; charset=utf-8', 'cache-control': 'no-store' },
    })),
    'POST /sessions/:id/sign-out': ticketed(async (session) => {
      await keepMoves(store, { ended: [session], changed: [], begun: [] });
      await store.write('REPLACE INTO away (pool, account, until_at) VALUES (?, ?, ?)', [
        session.pool,
        session.account,
        clock.now() + AWAY_MS,
      ]);
      return {
        status: 200,
        text: '<!doctype html><title>Signed out</title><p>You are signed out.</p>',
        headers: { 'content-type': 'text/html; charset=utf-8' },
      };
    }),
  };
}

/** The session of somebody on a host: the one that they have, else a new one where a seat is free. */
async function open(world: World, host: Resource, account: string, item: string): Promise<Session> {
  const { store, clock } = world;
  const pool = String(host.attrs.pool ?? '');
  const known = await store.row<Session>(
    'SELECT id, pool, host, account, state, since FROM session WHERE pool = ? AND account = ?',
    [pool, account],
  );
  if (known?.host === host.id) {
    await keepMoves(store, { ended: [], changed: [{ ...known, state: 'active' }], begun: [] });
    await store.write("UPDATE session SET held = '' WHERE id = ?", [known.id]);
    return known;
  }
  if (known) throw new Refusal(409, 'elsewhere', `${account} is in on another host of that pool`);
  if (host.state !== 'on' || host.attrs.accepting === false || (await silentHosts(world.store)).has(host.id))
    throw new Refusal(409, 'closed', `${host.name} takes nobody`);
  const owner = String(host.attrs.person ?? '');
  if (owner !== '' && owner !== account)
    throw new Refusal(403, 'not-theirs', `${host.name} is somebody else's`);
  const publications = (await world.list("kind = 'publication' AND state = 'ready'", [])).filter(
    ({ attrs }) => attrs.pool === pool,
  );
  const lets = publications.some(
    ({ attrs }) => Array.isArray(attrs.accounts) && attrs.accounts.includes(account),
  );
  const has = publications.some(({ attrs }) => Array.isArray(attrs.items) && attrs.items.includes(item));
  if (!lets || !has) throw new Refusal(403, 'not-granted', `${account} is not let in there`);
  const seats = Number((await world.find(pool)).attrs.seats ?? 1);
  const taken = await store.row<{ n: number }>('SELECT COUNT(*) AS n FROM session WHERE host = ?', [host.id]);
  if (Number(taken?.n ?? 0) >= seats) throw new Refusal(409, 'full', `${host.name} is full`);
  const session: Session = { id: newId(), pool, host: host.id, account, state: 'active', since: clock.now() };
  await store.write('DELETE FROM away WHERE pool = ? AND account = ?', [pool, account]);
  await keepMoves(store, { ended: [], changed: [], begun: [session] });
  return session;
}

/** What a session runs: of the apps of its pool some, the same ones each time it is asked. */
async function programsOf(world: World, session: LiveSession): Promise<Program[]> {
  const publications = (await world.list("kind = 'publication'", [])).filter(
    ({ attrs }) => attrs.pool === session.pool,
  );
  const apps = publications.flatMap(({ attrs }) =>
    Array.isArray(attrs.items) ? attrs.items.map(String) : [],
  );
  const ended = new Set(
    (
      await world.store.rows<{ program: string }>('SELECT program FROM ended_program WHERE session = ?', [
        session.id,
      ])
    ).map(({ program }) => program),
  );
  return ['Shell', ...apps.filter((app) => app !== 'Full desktop')]
    .map((name): Program & { readonly runs: boolean } => {
      const dice = createHash('sha256').update(`${session.id} ${name}`).digest();
      const [first = 0, second = 0, third = 0, fourth = 0] = dice;
      return {
        id: dice.toString('hex').slice(0, 8),
        name,
        load: session.state === 'idle' ? 0 : Math.round((first / 255) * 40),
        memory_mib: 60 + second * 3,
        responds: fourth > 12 || name === 'Shell',
        runs: name === 'Shell' || name === session.item || third > 70,
      };
    })
    .filter(({ id, runs }) => runs && !ended.has(id))
    .map(({ runs: _runs, ...program }) => program);
}
