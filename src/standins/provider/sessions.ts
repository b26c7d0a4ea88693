import { silentHosts } from './ailment';
import { presence } from './crowd';
import type { Resource } from './resource';
import { keepMoves, type Moves, type Session } from './session-record';

/** One that somebody opened themselves, or was left by an engineer, does not follow their usual day. */
interface Seen extends Session {
  readonly by_person: number;
  readonly held: string;
}

import { newId, type World } from './world';

/** When people were last moved, and how long that took: who has come since then came at their own hour. */
interface Look {
  readonly at: number;
  readonly endedWall: number;
  readonly tookMs: number;
  readonly hosts: number;
}

const lookedAt = new WeakMap<World, Look>();
/** On so many hosts that moving people takes long, they are moved less often: a seventh of the time at most. */
const MANY = 2_000;
const REST = 6;

/** Lets people come and go: each pool's sessions become what its people's day says, as far as there are seats. */
export async function movePeople(world: World): Promise<void> {
  const last = lookedAt.get(world);
  if (last && last.hosts > MANY && Date.now() - last.endedWall < REST * last.tookMs) return;
  const began = Date.now();
  const at = world.clock.now();
  const pools = await world.list("kind = 'pool' AND state <> 'building'", []);
  const publications = byPool(await world.list("kind = 'publication' AND state = 'ready'", []));
  const allHosts = await world.list("kind = 'host' AND state <> 'gone'", []);
  const silent = await silentHosts(world.store);
  const hosts = byPool(allHosts);
  const sessions = grouped(
    await world.store.rows<Seen>(
      'SELECT id, pool, host, account, state, since, by_person, held FROM session',
    ),
    (one) => one.pool,
  );
  await world.store.write('DELETE FROM away WHERE until_at <= ?', [at]);
  const away = new Set(
    (await world.store.rows<{ pool: string; account: string }>('SELECT pool, account FROM away')).map(
      (one) => `${one.pool} ${one.account}`,
    ),
  );
  const moves: Moves = { ended: [], changed: [], begun: [] };
  for (const pool of pools) {
    const accounts = (publications.get(pool.id) ?? []).flatMap((one) => listOf(one.attrs.accounts));
    movePool(
      pool,
      accounts,
      hosts.get(pool.id) ?? [],
      sessions.get(pool.id) ?? [],
      at,
      last?.at ?? 0,
      moves,
      away,
      silent,
    );
  }
  await keepMoves(world.store, moves);
  lookedAt.set(world, { at, endedWall: Date.now(), tookMs: Date.now() - began, hosts: allHosts.length });
}

const grouped = <One>(all: readonly One[], key: (one: One) => string): Map<string, One[]> => {
  const groups = new Map<string, One[]>();
  for (const one of all) {
    const group = groups.get(key(one));
    if (group) group.push(one);
    else groups.set(key(one), [one]);
  }
  return groups;
};

const byPool = (all: readonly Resource[]): Map<string, Resource[]> =>
  grouped(all, (one) => String(one.attrs.pool ?? ''));

function movePool(
  pool: Resource,
  accounts: readonly string[],
  hosts: readonly Resource[],
  sessions: readonly Seen[],
  at: number,
  lastLook: number,
  moves: Moves,
  away: ReadonlySet<string>,
  silent: ReadonlySet<string>,
): void {
  const byId = new Map(hosts.map((host) => [host.id, host]));
  const known = new Set(accounts);
  const counts = new Map(hosts.map((host) => [host.id, 0]));
  const here = new Set<string>();
  for (const session of sessions) {
    const usual = presence(pool.customer ?? '', session.account, at)?.state;
    const state =
      usual !== undefined && session.held === 'idle'
        ? 'idle'
        : session.by_person
          ? (usual ?? session.state)
          : usual;
    if (state === undefined || byId.get(session.host)?.state !== 'on' || !known.has(session.account)) {
      moves.ended.push(session);
      continue;
    }
    here.add(session.account);
    counts.set(session.host, (counts.get(session.host) ?? 0) + 1);
    if (state !== session.state) moves.changed.push({ ...session, state });
  }
  if (pool.state === 'gone') return;
  for (const account of accounts) {
    if (here.has(account) || away.has(`${pool.id} ${account}`)) continue;
    const day = presence(pool.customer ?? '', account, at);
    if (!day) continue;
    const host = chooseHost(hosts, pool, counts, account, silent);
    if (!host) {
      // A pool that is full turns everyone away; one of people's own only whoever has none.
      if (hosts.some(({ attrs }) => attrs.person !== undefined)) continue;
      return;
    }
    counts.set(host.id, (counts.get(host.id) ?? 0) + 1);
    moves.begun.push({
      id: newId(),
      pool: pool.id,
      host: host.id,
      account,
      state: day.state,
      since: day.since > lastLook ? day.since : at,
    });
  }
}

function chooseHost(
  hosts: readonly Resource[],
  pool: Resource,
  counts: ReadonlyMap<string, number>,
  account: string,
  silent: ReadonlySet<string>,
): Resource | undefined {
  // Who has a host of their own goes there, and nobody else does.
  const own = hosts.filter(({ attrs }) => attrs.person === account);
  const seats = Number(pool.attrs.seats ?? 1);
  const sign = pool.attrs.arrival === 'fill' ? -1 : 1;
  let best: { readonly host: Resource; readonly rank: number } | undefined;
  for (const host of own.length > 0 ? own : hosts.filter(({ attrs }) => (attrs.person ?? '') === '')) {
    const count = counts.get(host.id) ?? 0;
    if (host.state !== 'on' || host.attrs.accepting === false || silent.has(host.id) || count >= seats)
      continue;
    if (best === undefined || sign * count < best.rank) best = { host, rank: sign * count };
  }
  return best?.host;
}

const listOf = (value: unknown): string[] => (Array.isArray(value) ? value.map(String) : []);
