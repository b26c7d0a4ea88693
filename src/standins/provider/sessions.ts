import { presence } from './crowd';
import type { Resource } from './resource';
import { newId, type World } from './world';

interface SessionRow {
  readonly id: string;
  readonly pool: string;
  readonly host: string;
  readonly account: string;
  readonly state: string;
}

/** When people were last moved: who has come since then came at their own hour, others when a seat got free. */
const lookedAt = new WeakMap<World, number>();

/** Lets people come and go: each pool's sessions become what its people's day says, as far as there are seats. */
export async function movePeople(world: World): Promise<void> {
  const lastLook = lookedAt.get(world) ?? 0;
  lookedAt.set(world, world.clock.now());
  const pools = await world.list("kind = 'pool' AND state <> 'building'", []);
  const publications = await world.list("kind = 'publication' AND state = 'ready'", []);
  const hosts = await world.list("kind = 'host' AND state <> 'gone'", []);
  const sessions = await world.store.rows<SessionRow>('SELECT id, pool, host, account, state FROM session');
  for (const pool of pools)
    await movePool(
      world,
      pool,
      publications.filter((one) => one.attrs.pool === pool.id).flatMap((one) => listOf(one.attrs.accounts)),
      hosts.filter((host) => host.attrs.pool === pool.id),
      sessions.filter((session) => session.pool === pool.id),
      lastLook,
    );
}

async function movePool(
  world: World,
  pool: Resource,
  accounts: readonly string[],
  hosts: readonly Resource[],
  sessions: readonly SessionRow[],
  lastLook: number,
): Promise<void> {
  const at = world.clock.now();
  const counts = new Map(hosts.map((host) => [host.id, 0]));
  const here = new Set<string>();
  for (const session of sessions) {
    const host = hosts.find((one) => one.id === session.host);
    const state = presence(pool.customer ?? '', session.account, at)?.state;
    if (state === undefined || host?.state !== 'on' || !accounts.includes(session.account)) {
      await world.store.write('DELETE FROM session WHERE id = ?', [session.id]);
      continue;
    }
    here.add(session.account);
    counts.set(session.host, (counts.get(session.host) ?? 0) + 1);
    if (state !== session.state)
      await world.store.write('UPDATE session SET state = ? WHERE id = ?', [state, session.id]);
  }
  if (pool.state === 'gone') return;
  for (const account of accounts) {
    if (here.has(account)) continue;
    const day = presence(pool.customer ?? '', account, at);
    if (!day) continue;
    const host = chooseHost(hosts, pool, counts);
    if (!host) return;
    counts.set(host.id, (counts.get(host.id) ?? 0) + 1);
    await world.store.write(
      'INSERT INTO session (id, pool, host, account, state, since) VALUES (?, ?, ?, ?, ?, ?)',
      [newId(), pool.id, host.id, account, day.state, day.since > lastLook ? day.since : at],
    );
  }
}

function chooseHost(
  hosts: readonly Resource[],
  pool: Resource,
  counts: ReadonlyMap<string, number>,
): Resource | undefined {
  const seats = Number(pool.attrs.seats ?? 1);
  const count = (host: Resource): number => counts.get(host.id) ?? 0;
  const free = hosts.filter(
    (host) => host.state === 'on' && host.attrs.accepting !== false && count(host) < seats,
  );
  const sign = pool.attrs.arrival === 'fill' ? -1 : 1;
  return [...free].sort((a, b) => sign * (count(a) - count(b)))[0];
}

const listOf = (value: unknown): string[] => (Array.isArray(value) ? value.map(String) : []);
