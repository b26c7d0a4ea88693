import type { Store } from '../kit/database';

/** What of a host is otherwise than usual, until a restart or a larger disk mends it. */
export interface Ailment {
  readonly load?: number;
  readonly memory?: number;
  readonly disk?: number;
  readonly clock_off_ms?: number;
  readonly agent?: string;
  readonly tried?: number;
  readonly refused?: number;
  readonly sign_in_seconds?: number;
  /** It says nothing since then. */
  readonly silent_at?: number;
  /** Its provider does not mention it among those that run. */
  readonly unmentioned?: boolean;
}

/** What a restart does not mend. */
const LASTING: readonly (keyof Ailment)[] = ['disk', 'agent'];

export async function ailmentsOf(store: Store, hosts: readonly string[]): Promise<Map<string, Ailment>> {
  if (hosts.length === 0) return new Map();
  const rows = await store.rows<{ host: string; given: string }>(
    `SELECT host, given FROM ailment WHERE host IN (${hosts.map(() => '?').join(', ')})`,
    [...hosts],
  );
  return new Map(rows.map(({ host, given }) => [host, JSON.parse(given) as Ailment]));
}

/** Hosts that say nothing: nobody gets in there. */
export async function silentHosts(store: Store): Promise<ReadonlySet<string>> {
  const rows = await store.rows<{ host: string }>(
    "SELECT host FROM ailment WHERE JSON_EXISTS(given, '$.silent_at')",
  );
  return new Set(rows.map(({ host }) => host));
}

export async function ail(store: Store, host: string, given: Ailment): Promise<void> {
  if (Object.keys(given).length === 0) await store.write('DELETE FROM ailment WHERE host = ?', [host]);
  else await store.write('REPLACE INTO ailment (host, given) VALUES (?, ?)', [host, JSON.stringify(given)]);
}

/** A host comes back from a restart, or has a larger disk. */
export async function recover(store: Store, host: string, grown: boolean): Promise<void> {
  const before = (await ailmentsOf(store, [host])).get(host);
  if (!before) return;
  await ail(
    store,
    host,
    Object.fromEntries(
      Object.entries(before).filter(([name]) =>
        grown ? name !== 'disk' : LASTING.some((lasting) => lasting === name),
      ),
    ),
  );
}
