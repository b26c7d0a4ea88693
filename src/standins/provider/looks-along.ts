import { createHash, randomBytes } from 'node:crypto';
import { number, text } from '../kit/read';
import { Refusal, type Call, type Handler, type Routes } from '../kit/server';
import { askingPage, lookingPage } from './look-pages';
import type { LiveSession } from './session-record';
import type { World } from './world';

/** Somebody who wants to look along, or does. */
export interface Look {
  readonly id: string;
  readonly session: string;
  readonly by_name: string;
  readonly answer: 'none' | 'yes' | 'no' | 'over';
  readonly ticket: string;
  /** By the wall clock: an answer counts until then; after a yes: it lasts until then. */
  readonly until_wall: number;
  readonly look_ms: number;
  readonly asked_wall: number;
}

/** People that nobody plays answer after so long, three of four with yes. */
const THINKS_MS = 4_000;

interface Sessions {
  live(call: Call): Promise<LiveSession>;
  ticketed(
    work: (
      session: LiveSession,
      call: Call,
    ) => Promise<{ status: number; headers?: Record<string, string>; text?: string }>,
  ): Handler;
  /** What is on its screen, as a page. */
  screen(session: LiveSession, above: string): Promise<string>;
}

/** Looking along with a session: asked for, answered in it, seen there all the time, and over. */
export function lookRoutes(
  world: World,
  guarded: (handler: Handler) => Handler,
  { live, ticketed, screen }: Sessions,
): Routes {
  const { store } = world;
  const page = (body: string) => ({
    status: 200,
    text: body,
    headers: { 'content-type': 'text/html; charset=utf-8', 'cache-control': 'no-store' },
  });
  const answered = (answer: 'yes' | 'no' | 'over'): Handler =>
    ticketed(async (session, call) => {
      const look = await lookNow(world, session, call.params.look ?? '');
      if (look?.answer === 'none' || (look?.answer === 'yes' && answer === 'over'))
        await store.write('UPDATE look SET answer = ?, until_wall = ? WHERE id = ?', [
          answer,
          Date.now() + look.look_ms,
          look.id,
        ]);
      return {
        status: 303,
        headers: { location: `/sessions/${session.id}?ticket=${session.ticket}` },
        text: '',
      };
    });
  return {
    'PUT /v1/sessions/:id/looks/:look': guarded(async (call) => {
      const session = await live(call);
      if (text(call, 'account') !== session.account)
        throw new Refusal(409, 'not-theirs', 'that is somebody else’s session');
      await store.write(
        `INSERT IGNORE INTO look (id, session, by_name, answer, ticket, until_wall, look_ms, asked_wall)
         VALUES (?, ?, ?, 'none', ?, ?, ?, ?)`,
        [
          call.params.look ?? '',
          session.id,
          text(call, 'by').slice(0, 120),
          randomBytes(16).toString('hex'),
          Date.now() + number(call, 'answer_ms'),
          number(call, 'look_ms'),
          Date.now(),
        ],
      );
      return { status: 204 };
    }),
    'GET /v1/sessions/:id/looks/:look': guarded(async (call) => {
      const session = await live(call);
      const look = await lookNow(world, session, call.params.look ?? '');
      if (!look) throw new Refusal(404, 'no-look', 'nobody asked to look along there');
      return {
        status: 200,
        body: {
          answer: look.answer,
          address: look.answer === 'yes' ? `/looks/${look.id}?ticket=${look.ticket}` : null,
        },
      };
    }),
    'DELETE /v1/sessions/:id/looks/:look': guarded(async (call) => {
      await store.write("UPDATE look SET answer = 'over' WHERE id = ? AND session = ?", [
        call.params.look ?? '',
        call.params.id ?? '',
      ]);
      return { status: 204 };
    }),
    'POST /sessions/:id/looks/:look/yes': answered('yes'),
    'POST /sessions/:id/looks/:look/no': answered('no'),
    'POST /sessions/:id/looks/:look/stop': answered('over'),
    'GET /looks/:look': async (call) => {
      const found = await store.row<Look>('SELECT * FROM look WHERE id = ?', [call.params.look ?? '']);
      if (!found || call.query.get('ticket') !== found.ticket)
        throw new Refusal(403, 'ticket', 'this ticket is over');
      const session = await live({ ...call, params: { id: found.session } });
      const look = await lookNow(world, session, found.id);
      if (look?.answer !== 'yes') throw new Refusal(403, 'over', 'looking along is over');
      return page(lookingPage(await screen(session, ''), session.account));
    },
  };
}

/** How it is with one now: what is too late is over, and people whom nobody plays answer by themselves. */
async function lookNow({ store }: World, session: LiveSession, id: string): Promise<Look | undefined> {
  const look = await store.row<Look>('SELECT * FROM look WHERE id = ? AND session = ?', [id, session.id]);
  if (!look || look.answer === 'no' || look.answer === 'over') return look;
  if (Date.now() > look.until_wall) return { ...look, answer: 'over' };
  if (look.answer === 'yes' || Number(session.by_person) === 1 || Date.now() < look.asked_wall + THINKS_MS)
    return look;
  const [dice = 0] = createHash('sha256').update(session.id).digest();
  const answer = dice % 4 === 0 ? 'no' : 'yes';
  await store.write('UPDATE look SET answer = ?, until_wall = ? WHERE id = ? AND answer = ?', [
    answer,
    Date.now() + look.look_ms,
    look.id,
    'none',
  ]);
  return { ...look, answer };
}

/** What stands above somebody's screen while another asks to look along, or does. */
export async function lookBanner(world: World, session: LiveSession): Promise<string> {
  const looks = await world.store.rows<Look>(
    "SELECT * FROM look WHERE session = ? AND answer IN ('none', 'yes') AND until_wall > ? ORDER BY asked_wall",
    [session.id, Date.now()],
  );
  return looks.map((look) => askingPage(look, session.ticket)).join('\n');
}
