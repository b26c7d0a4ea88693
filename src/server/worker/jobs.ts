import { setTimeout as pause } from 'node:timers/promises';
import { SYSTEM } from '../access';
import type { App } from '../app';
import { transaction, type Connection } from '../db';
import { forgetPastSessions, readAnew, readFeed, readSessionChanges, readSessions } from '../present';
import {
  moveFeedPlace,
  moveSessionPlace,
  noteAnswer,
  noteReadUntil,
  readSites,
  trySignIn,
  type Connected,
} from '../providers';
import { forgetArrivals, forgetMessages, mailAsked } from '../desk';
import { keepDesktops } from '../desktops';
import { followDirectories } from '../directory-link';
import { giveBackSeats, keepSeats } from '../grants';
import { finishLeaving, forgetGone } from '../life';
import { keepOverridesInForce } from '../changes';
import { endHolds } from '../holds';
import { endMachines, refreshImages } from '../image-upkeep';
import { followLooks, forgetLooks } from '../look-along';
import { doActs, forgetActs } from '../session-acts';
import { tellOutside } from '../notices';
import { mailInvites } from '../operators';
import { forgetSigns, readSigns } from '../signs';
import { PARENT_WORK } from '../parent-kinds';
import { carryOnParents } from '../parent-runs';
import { keepShelves } from '../shelf';
import { learnDurations, turnWindows } from '../runs';
import { notePeaks } from '../sizing';
import { forgetMarks, takeSummaries } from '../watch';

/** Something a worker does again and again. Each is done by one worker at a time, under a lease. */
export interface Job {
  readonly name: string;
  readonly everyMs: number;
  /** @param stop tells that the worker is to end: nothing more is begun then */
  readonly run: (app: App, hold: Hold, stop: AbortSignal) => Promise<void>;
  /** Each thing that it works on has its own rest: it is looked for at once what is due next. */
  readonly restsItself?: true;
}

/** A job as held by this worker. */
export interface Hold {
  readonly name: string;
  readonly place: string;
  readonly fence: number;
}

const MINUTE = 60_000;
const FEED_MS = 500;
const SESSIONS_MS = 1_500;
const SIGNS_MS = 5_000;
const NOTICES_MS = 3_000;
const GROUND_MS = 20_000;
const LEAVING_MS = 5_000;
const SHELF_MS = 3_000;
const MACHINES_MS = 3_000;
/** What is in the way, like a node that is full, is so for longer: it is not tried again at once. */
const REFRESH_MS = MINUTE;
const PEAKS_MS = 20_000;
const HOLDS_MS = 2_000;
const WINDOWS_MS = 2_000;
const OVERRIDES_MS = 1_000;
const PARENTS_MS = 1_000;
const DESKTOPS_MS = 5_000;
const DIRECTORIES_MS = 500;
const SEATS_MS = 2_000;
const LOOKS_MS = 15_000;
const ACTS_MS = 500;
const LINKS_MS = 500;
const INVITES_MS = 2_000;
const DURATIONS_MS = 5 * MINUTE;
const RETENTION_MS = 5 * MINUTE;

/** Takes a job that is due; undefined when it is not, or another worker has it. */
export async function hold(app: App, job: Job): Promise<Hold | undefined> {
  const wall = app.clock.wall();
  return transaction(app.db, async (connection) => {
    const row = await connection.row<{ fence: number; place: string }>(
      'SELECT fence, place FROM job WHERE name = ? AND due_wall <= ? AND lease_wall <= ? FOR UPDATE SKIP LOCKED',
      [job.name, wall, wall],
    );
    if (!row) return undefined;
    await connection.write('UPDATE job SET fence = fence + 1, lease_wall = ? WHERE name = ?', [
      wall + app.leaseMs,
      job.name,
    ]);
    return { name: job.name, place: row.place, fence: row.fence + 1 };
  });
}

/** Goes on holding a job while its work lasts. */
export async function renewHold(app: App, held: Hold): Promise<void> {
  await app.db.write('UPDATE job SET lease_wall = ? WHERE name = ? AND fence = ?', [
    app.clock.wall() + app.leaseMs,
    held.name,
    held.fence,
  ]);
}

/** Lets go of a job until it is due again; `done`: whether it was done to its end. */
export async function letGo(app: App, held: Hold, restMs: number, done: boolean): Promise<void> {
  const wall = app.clock.wall();
  await app.db.write(
    'UPDATE job SET lease_wall = 0, due_wall = ?, done_wall = IF(?, ?, done_wall) WHERE name = ? AND fence = ?',
    [wall + restMs, done, wall, held.name, held.fence],
  );
}

/** Notes how far a job has come, for as long as it is held. */
export const notePlace = async (app: App, held: Hold, place: string): Promise<void> =>
  void (await app.db.write('UPDATE job SET place = ? WHERE name = ? AND fence = ?', [
    place,
    held.name,
    held.fence,
  ]));

/** Makes the rows that jobs are held by. */
export async function layOutJobs(app: App, jobs: readonly Job[] = JOBS): Promise<void> {
  for (const job of jobs)
    await app.db.write(
      "INSERT IGNORE INTO job (name, lease_wall, due_wall, fence, place) VALUES (?, 0, 0, 0, '')",
      [job.name],
    );
}

/** When a job is due next, or was when its last worker ended. Wall time. */
export async function lastDue(db: Connection, name: string): Promise<number> {
  const row = await db.row<{ due: number }>('SELECT due_wall AS due FROM job WHERE name = ?', [name]);
  return row?.due ?? 0;
}

/** Nothing is held or rests any longer: for whoever has set the clock that leases went by. */
export async function everythingDue(db: Connection): Promise<void> {
  await db.write('UPDATE job SET lease_wall = 0, due_wall = 0');
  await db.write('UPDATE step SET lease_wall = 0, due_wall = 0');
}

/**
 * Does something at each provider, at the same time. One that does not answer holds up none of the others: as long as it
 * is waited for, it is done at them again as often as ever.
 */
async function atEach(
  app: App,
  everyMs: number,
  work: (provider: Connected) => Promise<void>,
): Promise<void> {
  const once = async (code: string): Promise<void> => work(await app.providers.named(code));
  const codes = (await app.providers.all()).map((one) => one.code);
  const first = codes.map(once);
  const everyone = Promise.allSettled(first).then(() => 'done');
  const again = (): Promise<string> => pause(everyMs, 'again', { ref: false });
  const outcomes = await Promise.allSettled(
    codes.map(async (code, n) => {
      await first[n];
      while ((await Promise.race([everyone, again()])) === 'again') await once(code);
    }),
  );
  const failed = outcomes.find((one) => one.status === 'rejected');
  if (failed) throw failed.reason;
}

/** Reads what has changed at the providers, a page a transaction. */
const feed = (app: App): Promise<void> =>
  atEach(app, FEED_MS, async (provider) => {
    for (let place = provider.feedPlace, more = true; more;) {
      const began = app.clock.now();
      const page = await provider.port.feed(place);
      if (!page) return readAnew(app, { ...provider, feedPlace: place });
      await noteAnswer(app.db, provider.code, app.clock.wall());
      if (page.last === undefined) return void (await noteReadUntil(app.db, provider.code, began));
      const next = String(page.last);
      await transaction(app.db, async (connection) => {
        // Who read it meanwhile has taken it in: then this page is left as it is.
        if ((await moveFeedPlace(connection, provider.code, place, next)) === 0)
          throw new Error(`the record of ${provider.code} is read by another worker`);
        await readFeed(app, connection, provider.code, page);
        if (!page.more) await noteReadUntil(connection, provider.code, began);
      });
      place = next;
      more = page.more;
    }
  });

const clocked = (app: App): { now: number; wall: number } => ({
  now: app.clock.now(),
  wall: app.clock.wall(),
});

/** Reads who has come and gone since it was last read; everyone who is in, where that is not known. */
const sessions = (app: App): Promise<void> =>
  atEach(app, SESSIONS_MS, async (provider) => {
    if (provider.sessionPlace !== null && (await sessionsSince(app, provider, provider.sessionPlace))) return;
    const { sessions: present, place } = await provider.port.allSessions();
    await transaction(app.db, async (connection) => {
      const all = await readSessions(connection, provider.code, present, clocked(app));
      await moveSessionPlace(connection, provider.code, provider.sessionPlace, all ? place : null);
    });
  });

/** @returns false when the provider's record does not go back that far */
async function sessionsSince(app: App, { code, port }: Connected, from: string): Promise<boolean> {
  for (let place = from, more = true; more;) {
    const page = await port.sessionChanges(place);
    if (!page) return false;
    const next = await transaction(app.db, async (connection) => {
      const read = await readSessionChanges(connection, code, page.entries, clocked(app));
      // What could not be understood is passed over, once all that could is taken in.
      const until = read === page.entries.at(-1)?.seq ? (page.last ?? read) : read;
      if (until === undefined) return undefined;
      // Who read it meanwhile has taken it in: what was read is the same, and the place is theirs.
      return (await moveSessionPlace(connection, code, place, String(until))) > 0 ? until : undefined;
    });
    more = page.more && next === page.last;
    if (next !== undefined) place = String(next);
  }
  return true;
}

const directories: Job['run'] = (app, _hold, stop) => followDirectories(app, stop);

/** What hosts say of themselves. */
const signs = (app: App): Promise<void> => atEach(app, SIGNS_MS, (provider) => readSigns(app, provider));

const ground = (app: App): Promise<void> =>
  atEach(app, GROUND_MS, async (provider) => {
    const { worked } = await trySignIn(app, provider);
    if (worked) await readSites(app, provider, SYSTEM);
  });

/** Of many, as many as are taken in this time; the others after a rest, so that none of them waits for all. */
const SUMMARIES_MS = 2_000;

async function summaries(app: App): Promise<void> {
  const began = performance.now();
  while ((await takeSummaries(app)) > 0 && performance.now() - began < SUMMARIES_MS);
}

const KEEP_EVENTS_MS = 30 * MINUTE;
const KEEP_ANSWERS_MS = 24 * 60 * MINUTE;

async function sweep(app: App): Promise<void> {
  const wall = app.clock.wall();
  await app.db.write('DELETE FROM live_event WHERE wall_at < ? LIMIT 5000', [wall - KEEP_EVENTS_MS]);
  await giveBackSeats(app);
  await forgetArrivals(app);
  await forgetActs(app);
  await forgetLooks(app);
  await forgetMessages(app);
  await forgetPastSessions(app);
  await forgetSigns(app);
  await forgetMarks(app);
  await app.db.write('DELETE FROM idempotency WHERE created_at < ? LIMIT 5000', [wall - KEEP_ANSWERS_MS]);
}

export const JOBS: readonly Job[] = [
  { name: 'feed', everyMs: FEED_MS, run: feed },
  { name: 'sessions', everyMs: SESSIONS_MS, run: sessions },
  { name: 'signs', everyMs: SIGNS_MS, run: signs },
  { name: 'notices', everyMs: NOTICES_MS, run: tellOutside },
  { name: 'ground', everyMs: GROUND_MS, run: ground },
  { name: 'shelf', everyMs: SHELF_MS, run: keepShelves },
  { name: 'machines', everyMs: MACHINES_MS, run: endMachines },
  { name: 'refresh', everyMs: REFRESH_MS, run: refreshImages },
  { name: 'directories', everyMs: DIRECTORIES_MS, run: directories, restsItself: true },
  { name: 'seats', everyMs: SEATS_MS, run: keepSeats },
  { name: 'session acts', everyMs: ACTS_MS, run: doActs },
  { name: 'desk links', everyMs: LINKS_MS, run: mailAsked },
  { name: 'invitations', everyMs: INVITES_MS, run: mailInvites },
  { name: 'looks along', everyMs: LOOKS_MS, run: followLooks },
  { name: 'desktops', everyMs: DESKTOPS_MS, run: keepDesktops },
  { name: 'holds', everyMs: HOLDS_MS, run: endHolds },
  { name: 'overrides', everyMs: OVERRIDES_MS, run: keepOverridesInForce },
  { name: 'windows', everyMs: WINDOWS_MS, run: turnWindows },
  { name: 'durations', everyMs: DURATIONS_MS, run: learnDurations },
  { name: 'peaks', everyMs: PEAKS_MS, run: notePeaks },
  { name: 'parents', everyMs: PARENTS_MS, run: (app, _held, stop) => carryOnParents(app, PARENT_WORK, stop) },
  { name: 'leaving', everyMs: LEAVING_MS, run: finishLeaving },
  { name: 'retention', everyMs: RETENTION_MS, run: forgetGone },
  { name: 'summary', everyMs: 700, run: summaries },
  { name: 'sweep', everyMs: MINUTE, run: sweep },
];
