import type { Sighting } from '../../core/metering';
import { systemScope } from '../access';
import type { Connection } from '../db';
import { tell } from '../live';
import { readSightings } from '../metering';
import type { FeedPage, Seen } from '../provider';

type Entry = FeedPage['entries'][number];

interface Whose {
  readonly customer: { readonly id: string; readonly code: string };
  /** Null for a network, which serves all of the customer's environments at its site. */
  readonly place: { readonly environmentId: string; readonly poolId: string } | null;
}

/**
 * Takes in a page of the provider's record: what is there now, and the intervals of state that it makes. Done in the
 * transaction that moves the feed's place, so each entry counts once.
 */
export async function readFeed(connection: Connection, page: FeedPage, wall: number): Promise<void> {
  const changed = new Map<string, string>();
  const owners = new Map<string, Promise<Whose | undefined>>();
  for (const entry of page.entries) {
    const owner = owners.get(entry.seen.id) ?? whose(connection, entry.seen);
    owners.set(entry.seen.id, owner);
    const known = await owner;
    await keep(connection, entry, known);
    if (!known) continue;
    await meterEntry(connection, entry, known);
    changed.set(known.place?.environmentId ?? known.customer.id, known.customer.id);
  }
  for (const customerId of new Set(changed.values()))
    await connection.write('UPDATE tally SET stale = TRUE WHERE customer_id = ?', [customerId]);
  for (const [environmentId, customerId] of changed)
    await tell(connection, customerId, 'environment', environmentId, wall);
}

/**
 * Whose a resource is, by its tags: a customer, and an environment and pool of that customer. An environment or pool
 * that is not that customer's counts as none.
 */
async function whose(connection: Connection, seen: Seen): Promise<Whose | undefined> {
  const { customer, environment, pool } = seen.tags;
  if (customer === undefined) return undefined;
  const row = await connection.row<{
    id: string;
    code: string;
    environment: string | null;
    pool: string | null;
  }>(
    `SELECT c.id, c.code, e.id AS environment, p.id AS pool FROM customer c
       LEFT JOIN environment e ON e.customer_id = c.id AND e.id = ?
       LEFT JOIN pool p ON (p.customer_id, p.environment_id) = (e.customer_id, e.id) AND p.id = ?
     WHERE c.code = ?`,
    [environment ?? '', pool ?? '', customer],
  );
  if (!row) return undefined;
  const place =
    row.environment !== null && row.pool !== null
      ? { environmentId: row.environment, poolId: row.pool }
      : null;
  return { customer: { id: row.id, code: row.code }, place };
}

async function keep(connection: Connection, { at, seen }: Entry, owner: Whose | undefined): Promise<void> {
  await connection.write(
    `INSERT INTO observed (ref, customer_id, environment_id, kind, name, site_code, state, size, disk_gib, node,
       accepting, agent, joined, made_at, changed_at, gone_at) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)
     ON DUPLICATE KEY UPDATE state = VALUES(state), size = VALUES(size), disk_gib = VALUES(disk_gib),
       node = VALUES(node), accepting = VALUES(accepting), agent = VALUES(agent), joined = VALUES(joined),
       changed_at = VALUES(changed_at), gone_at = VALUES(gone_at)`,
    [
      seen.id,
      owner?.customer.id ?? null,
      owner?.place?.environmentId ?? null,
      seen.kind,
      seen.name,
      seen.site,
      seen.state,
      seen.size,
      seen.diskGiB,
      seen.node,
      seen.accepting,
      seen.agent,
      seen.joined,
      seen.createdAt,
      at,
      seen.goneAt,
    ],
  );
}

async function meterEntry(connection: Connection, { at, seen }: Entry, owner: Whose): Promise<void> {
  const sighting = sightingOf(seen);
  if (!sighting || !owner.place) return;
  await readSightings(connection, systemScope(owner.customer), {
    ref: seen.id,
    ...owner.place,
    sighting,
    at,
  });
}

function sightingOf(seen: Seen): Sighting | undefined {
  if (seen.kind === 'network' || seen.kind === 'subnet') return undefined;
  if (seen.state === 'gone') return { kind: 'gone' };
  if (seen.kind === 'share') return { kind: 'share', gib: seen.gib ?? 0 };
  if (seen.kind === 'pool') return { kind: 'pool', licences: seen.licences ?? 0 };
  return {
    kind: 'host',
    power: seen.state === 'on' ? 'on' : 'off',
    size: seen.size ?? '',
    diskGiB: seen.diskGiB ?? 0,
  };
}
