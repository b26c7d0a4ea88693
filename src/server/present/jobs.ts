import type { App } from '../app';
import { transaction } from '../db';
import type { Job } from '../manifest';
import {
  atEach,
  moveFeedPlace,
  moveSessionPlace,
  noteAnswer,
  noteReadUntil,
  type Connected,
} from '../providers';
import { readAnew } from './anew';
import { readFeed } from './feed';
import { readSessionChanges, readSessions } from './sessions';

const FEED_MS = 500;
const SESSIONS_MS = 1_500;

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

export const feedJob: Job = { name: 'feed', everyMs: FEED_MS, run: feed };
export const sessionsJob: Job = { name: 'sessions', everyMs: SESSIONS_MS, run: sessions };
