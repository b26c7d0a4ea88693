import { shown } from '../clock';
import { transaction, type Connection } from '../db';
import type { App } from '../app';
import { readFeed, readSessions } from '../present';
import { knownProvider, readGround, trySignIn } from '../provider';
import { takeTallies } from '../watch';

/** Something a worker does again and again. Each is done by one worker at a time, under a lease. */
export interface Duty {
  readonly name: string;
  readonly everyMs: number;
  /** @param place how far it had come; @returns how far it has come */
  readonly run: (app: App, hold: Hold) => Promise<void>;
}

/** A duty as held by this worker. */
export interface Hold {
  readonly name: string;
  readonly place: string;
  readonly fence: number;
}

const LEASE_MS = Number(process.env.LAAGER_LEASE_MS ?? 30_000);
const MINUTE = 60_000;

/** Takes a duty that is due; undefined when it is not, or another worker has it. */
export async function hold(app: App, duty: Duty): Promise<Hold | undefined> {
  const wall = app.clock.wall();
  return transaction(app.db, async (connection) => {
    const row = await connection.row<{ fence: number; place: string }>(
      'SELECT fence, place FROM duty WHERE name = ? AND due_wall <= ? AND lease_wall <= ? FOR UPDATE SKIP LOCKED',
      [duty.name, wall, wall],
    );
    if (!row) return undefined;
    await connection.write('UPDATE duty SET fence = fence + 1, lease_wall = ? WHERE name = ?', [
      wall + LEASE_MS,
      duty.name,
    ]);
    return { name: duty.name, place: row.place, fence: row.fence + 1 };
  });
}

export async function letGo(app: App, duty: Duty, held: Hold): Promise<void> {
  await app.db.write('UPDATE duty SET lease_wall = 0, due_wall = ? WHERE name = ? AND fence = ?', [
    app.clock.wall() + duty.everyMs,
    duty.name,
    held.fence,
  ]);
}

/** Makes the rows that duties are held by. */
export async function layOutDuties(app: App): Promise<void> {
  for (const duty of DUTIES)
    await app.db.write(
      "INSERT IGNORE INTO duty (name, lease_wall, due_wall, fence, place) VALUES (?, 0, 0, 0, '')",
      [duty.name],
    );
}

/** Moves a duty's place in the transaction of what was done. @throws Error when another worker has taken over */
async function movePlace(connection: Connection, held: Hold, place: string): Promise<void> {
  const moved = await connection.write(
    'UPDATE duty SET place = ?, fence = fence WHERE name = ? AND fence = ?',
    [place, held.name, held.fence],
  );
  if (moved === 0) throw new Error(`${held.name} is held by another worker now`);
}

/** Reads what has changed at the provider, a page a transaction. */
async function feed(app: App, held: Hold): Promise<void> {
  for (let after = Number(held.place || 0), more = true; more;) {
    const page = await app.provider.feed(after);
    const last = page.entries.at(-1);
    if (!last) return;
    await transaction(app.db, async (connection) => {
      await readFeed(connection, page, app.clock.wall());
      await movePlace(connection, held, String(last.seq));
    });
    after = last.seq;
    more = page.more;
  }
}

async function sessions(app: App): Promise<void> {
  const present = await app.provider.sessions();
  await transaction(app.db, (connection) => readSessions(connection, present, app.clock.wall()));
}

async function ground(app: App): Promise<void> {
  const known = await knownProvider(app.db);
  if (!known) return;
  const { worked } = await trySignIn(app.db, app.provider, app.clock.now());
  if (worked) await readGround(app.db, app.provider, known.code, app.clock.now(), app.clock.wall());
}

async function tallies(app: App): Promise<void> {
  while ((await takeTallies(app)) > 0);
}

const KEEP_EVENTS_MS = 30 * MINUTE;
const KEEP_ANSWERS_MS = 24 * 60 * MINUTE;

async function sweep(app: App): Promise<void> {
  const wall = app.clock.wall();
  await app.db.write('DELETE FROM live_event WHERE wall_at < ? LIMIT 5000', [wall - KEEP_EVENTS_MS]);
  await app.db.write('DELETE FROM idempotency WHERE created_at < ? LIMIT 5000', [wall - KEEP_ANSWERS_MS]);
}

/** In the demo, tells the simulated outside when someone has set the clock. */
async function clock(app: App, held: Hold): Promise<void> {
  const url = process.env.LAAGER_SIMULATION_URL;
  await app.clock.refresh();
  const setting = app.clock.setting();
  if (url === undefined || !setting) return;
  const mark = `${setting.shownAt} ${setting.wallAt}`;
  if (mark === held.place) return;
  const response = await fetch(`${url}/control/clock`, {
    method: 'PUT',
    body: JSON.stringify({ at: shown(setting, Date.now()), speed: setting.speed }),
    signal: AbortSignal.timeout(10_000),
  });
  if (!response.ok) throw new Error(`the simulation's clock could not be set: ${response.status}`);
  await movePlace(app.db, held, mark);
}

export const DUTIES: readonly Duty[] = [
  { name: 'clock', everyMs: 200, run: clock },
  { name: 'feed', everyMs: 500, run: feed },
  { name: 'sessions', everyMs: 1_500, run: sessions },
  { name: 'ground', everyMs: 20_000, run: ground },
  { name: 'tally', everyMs: 700, run: tallies },
  { name: 'sweep', everyMs: MINUTE, run: sweep },
];
