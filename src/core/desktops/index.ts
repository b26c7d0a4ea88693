import { DAY, type Instant } from '../calendar';
import { KEPT_DISKS, type Attributes, type Intent } from '../intent';
import type { PlanTerms } from '../plans';
import { diskKey, hostKey } from '../resources';

export { desktopMoves, type DesktopMove, type PersonNow } from './follow';

type Promised = Pick<PlanTerms, 'retentionDays'>;

/**
 * Until when a desktop is kept whose person left, or a disk that is put aside: so many days as the plan promises.
 * @param from when they left, or when it was put aside
 */
export const keptUntil = (from: Instant, { retentionDays }: Promised): Instant => from + retentionDays * DAY;

/** Hosts whose person has left, by their keys and those of their disks, and until when each is kept. */
export const keptDesktopsOf = (
  { pools }: Pick<Intent, 'pools'>,
  plan: Promised,
): { readonly key: string; readonly disk: string; readonly until: Instant }[] =>
  pools.flatMap(({ role, hosts }) =>
    hosts.flatMap(({ slot, disk, leftAt }) =>
      leftAt === undefined
        ? []
        : [{ key: hostKey(role, slot), disk: diskKey(role, slot, disk), until: keptUntil(leftAt, plan) }],
    ),
  );

/** A disk that was put aside. */
export interface KeptDisk {
  readonly key: string;
  readonly pool: string;
  readonly person: string;
  readonly gib: number;
  readonly until: Instant;
}

/** The key of a disk as an intent holds it that was put aside. */
export const keyOfKept = ({ pool, slot, disk }: Attributes): string =>
  diskKey(String(pool), Number(slot), Number(disk));

/** Disks that were put aside, each until when. */
export const keptDisksOf = ({ more }: Pick<Intent, 'more'>): KeptDisk[] =>
  (more[KEPT_DISKS] ?? []).map((held) => ({
    key: keyOfKept(held),
    pool: String(held.pool),
    person: String(held.person),
    gib: Number(held.gib),
    until: Number(held.until),
  }));

/** An intent that says of nobody that they had a desktop. */
export function withoutOwners(intent: Intent): Intent {
  const { [KEPT_DISKS]: _kept, ...more } = intent.more;
  return {
    ...intent,
    pools: intent.pools.map((pool) => ({
      ...pool,
      hosts: pool.hosts.map(({ person: _person, personId: _id, ...host }) => host),
    })),
    more,
  };
}
