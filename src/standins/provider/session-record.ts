import type { Store, Value } from '../kit/database';

export interface Session {
  readonly id: string;
  readonly pool: string;
  readonly host: string;
  readonly account: string;
  readonly state: string;
  readonly since: number;
}

/** A session with what its own page and those who look along need. */
export interface LiveSession extends Session {
  /** Whether a person is at it, and not one of those who come by themselves. */
  readonly by_person: number;
  readonly item: string;
  readonly ticket: string;
  readonly ticket_until: number;
  /** JSON: what may cross in it. */
  readonly crosses: string;
  readonly screen: string;
}

/** What comes of people's day at an instant. */
export interface Moves {
  readonly ended: Session[];
  readonly changed: Session[];
  readonly begun: Session[];
}

/** Ends every session on a host. */
export async function endSessionsOn(store: Store, host: string): Promise<void> {
  const there = await store.rows<Session>(
    'SELECT id, pool, host, account, state, since FROM session WHERE host = ?',
    [host],
  );
  await keepMoves(store, { ended: there, changed: [], begun: [] });
}

const CHUNK = 500;

/** Keeps what has moved, and writes it into the record of changes. */
export async function keepMoves(store: Store, { ended, changed, begun }: Moves): Promise<void> {
  const inChunks = async (
    all: readonly Session[],
    write: (chunk: readonly Session[]) => Promise<unknown>,
  ): Promise<void> => {
    for (let at = 0; at < all.length; at += CHUNK) await write(all.slice(at, at + CHUNK));
  };
  const places = (chunk: readonly Session[], each: string): string => chunk.map(() => each).join(', ');
  await inChunks(ended, (chunk) =>
    store.write(
      `DELETE FROM session WHERE id IN (${places(chunk, '?')})`,
      chunk.map((one) => one.id),
    ),
  );
  // One that someone else has ended meanwhile stays ended.
  for (const state of ['active', 'idle'])
    await inChunks(
      changed.filter((one) => one.state === state),
      (chunk) =>
        store.write(`UPDATE session SET state = ? WHERE id IN (${places(chunk, '?')})`, [
          state,
          ...chunk.map((one) => one.id),
        ]),
    );
  await inChunks(begun, (chunk) =>
    store.write(
      `INSERT INTO session (id, pool, host, account, state, since) VALUES ${places(chunk, '(?, ?, ?, ?, ?, ?)')}`,
      chunk.flatMap((one): Value[] => [one.id, one.pool, one.host, one.account, one.state, one.since]),
    ),
  );
  const told = [...ended.map((one) => ({ ...one, state: 'ended' })), ...changed, ...begun];
  await inChunks(told, (chunk) =>
    store.write(
      `INSERT INTO session_change (id, host, account, state, since) VALUES ${places(chunk, '(?, ?, ?, ?, ?)')}`,
      chunk.flatMap((one): Value[] => [one.id, one.host, one.account, one.state, one.since]),
    ),
  );
  await forgetOld(store);
}

/** Changes that the record holds: who comes later than that reads everything anew. */
const MOST_CHANGES = 100_000;

async function forgetOld(store: Store): Promise<void> {
  const newest = await newestChange(store);
  if (newest % 64 === 0)
    await store.write('DELETE FROM session_change WHERE seq <= ?', [newest - MOST_CHANGES]);
}

/** The place of the newest change; 0: there was none. */
export async function newestChange(store: Store): Promise<number> {
  const row = await store.row<{ seq: number | null }>('SELECT MAX(seq) AS seq FROM session_change');
  return Number(row?.seq ?? 0);
}

/** Whether the record still holds everything that came after a place. */
export async function isKnownPlace(store: Store, place: number): Promise<boolean> {
  const row = await store.row<{ oldest: number | null; newest: number | null }>(
    'SELECT MIN(seq) AS oldest, MAX(seq) AS newest FROM session_change',
  );
  if (row?.newest === null || row?.newest === undefined) return place === 0;
  return place >= Number(row.oldest) - 1 && place <= Number(row.newest);
}
