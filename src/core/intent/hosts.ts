import { KEPT_DISKS, type HostIntent, type Intent, type PoolIntent } from './model';

/** What of a host's entry an edit may change, that it comes to be, or that it goes. */
export type HostTouch = Exclude<keyof HostIntent, 'slot'> | 'new host' | 'host gone';

/** What somebody's desktop is known by: nobody's edit takes it along that does not say so. */
export const BONDS = ['person', 'personId', 'disk', 'leftAt'] as const satisfies readonly HostTouch[];

/** What of a host's entry becomes otherwise; undefined: that is left out from then on. */
export type HostPatch = { readonly [Key in Exclude<keyof HostIntent, 'slot'>]?: HostIntent[Key] | undefined };

/**
 * A host's entry with what is named otherwise, and all else as it was: the only way in which an entry is edited.
 * @example
 * patchHost({ slot: 1, size: 'm', person: 'kim' }, { size: undefined })
 * // { slot: 1, person: 'kim' }
 */
export function patchHost(host: HostIntent, patch: HostPatch): HostIntent {
  const next = Object.entries({ ...host, ...patch }).filter(([, value]) => value !== undefined);
  // A host's own fields, without those that were set to nothing.
  return Object.fromEntries(next) as unknown as HostIntent;
}

/** Each host of a pool patched. */
export const patchHosts = (pool: PoolIntent, patch: HostPatch): PoolIntent => ({
  ...pool,
  hosts: pool.hosts.map((host) => patchHost(host, patch)),
});

/** One thing that an edit does to a host's entry. */
export interface HostEdit {
  readonly pool: string;
  readonly slot: number;
  readonly touch: HostTouch;
}

/** All that differs between the host entries of two intents. A host that goes takes its bonds along. */
export function hostEdits(before: Intent, after: Intent): HostEdit[] {
  return before.pools.flatMap(({ role: pool, hosts }) => {
    const now = new Map(
      (after.pools.find(({ role }) => role === pool)?.hosts ?? []).map((host) => [host.slot, host]),
    );
    const gone = hosts.flatMap((host): HostEdit[] =>
      now.has(host.slot)
        ? []
        : [
            { pool, slot: host.slot, touch: 'host gone' },
            ...BONDS.filter((bond) => bond !== 'disk' && host[bond] !== undefined).map((touch) => ({
              pool,
              slot: host.slot,
              touch,
            })),
          ],
    );
    const changed = hosts.flatMap((host): HostEdit[] => {
      const other = now.get(host.slot);
      if (!other) return [];
      const keys = new Set([...Object.keys(host), ...Object.keys(other)]) as Set<keyof HostIntent>;
      return [...keys].flatMap((key) =>
        key === 'slot' || host[key] === other[key] ? [] : [{ pool, slot: host.slot, touch: key }],
      );
    });
    const slots = new Set(hosts.map(({ slot }) => slot));
    const fresh = [...now.keys()].filter((slot) => !slots.has(slot));
    return [...gone, ...changed, ...fresh.map((slot): HostEdit => ({ pool, slot, touch: 'new host' }))];
  });
}

/** The highest number that a personal disk of a pool has or had, also one that was put aside; 0: it never had one. */
export function lastDiskOf({ pools, more }: Pick<Intent, 'pools' | 'more'>, role: string): number {
  const pool = pools.find((one) => one.role === role);
  const onHosts = (pool?.hosts ?? []).map(({ disk = 1 }) => disk);
  const aside = (more[KEPT_DISKS] ?? []).flatMap((kept) => (kept.pool === role ? [Number(kept.disk)] : []));
  return [pool?.lastDisk ?? 0, ...onHosts, ...aside].reduce((most, one) => Math.max(most, one), 0);
}

/** An edited intent that remembers which numbers of disks were ever given: none is given twice. */
export const rememberingDisks = (before: Intent | null, after: Intent): Intent => ({
  ...after,
  pools: after.pools.map((pool) => {
    const last = Math.max(before ? lastDiskOf(before, pool.role) : 0, lastDiskOf(after, pool.role));
    return pool.ownDiskGiB === 0 || last <= 1 || last === pool.lastDisk ? pool : { ...pool, lastDisk: last };
  }),
});
