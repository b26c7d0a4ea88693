import type { Facts } from '../../facts';
import { toEveryone } from '../../grants';
import type { GivenPool, Grant, OfferedItem, PoolIntent } from '../../intent';
import { moreHosts } from '../../resources';
import { isPersonal } from '../../sizing';
import type { PoolSpec } from '../../terms';
import { imageFor } from '../common';
import type { SizedPool } from './sizes';

/** A pool as it is made. */
export function poolOf(sized: SizedPool, { site }: Pick<Facts, 'site'>): PoolIntent {
  const { spec, chosen, hostsForAll } = sized;
  const { role, profile, mostSeats, arrival, diskGiB, assign, people, items, crosses, may } = spec;
  const empty: PoolIntent = {
    role,
    ...imageFor(site, spec.image, spec.track),
    size: chosen?.size.key ?? '',
    seats: chosen?.seats ?? 1,
    profile,
    mostSeats,
    arrival,
    diskGiB,
    ownDiskGiB: isPersonal(spec) ? spec.ownDiskGiB : 0,
    assign,
    ceiling: Math.max(1, Math.ceil(hostsForAll * spec.ceilingFactor)),
    people,
    shareGiB: people * spec.shareGiBPerPerson,
    items: items.map(({ for: _for, ...item }) => item),
    grants: grantedFromTheStart(items),
    crosses,
    may,
    hosts: [],
  };
  return moreHosts(empty, chosen?.hosts ?? 0);
}

/** Every group that something of some pools is for. */
export const groupsNamed = (pools: readonly Pick<PoolSpec, 'items'>[]): string[] => [
  ...new Set(pools.flatMap(({ items }) => items.flatMap((item) => item.for ?? []))),
];

/** What is for a group is granted to it; the rest is there for all of the customer's people at first. */
const grantedFromTheStart = (items: readonly OfferedItem[]): Grant[] =>
  items.flatMap((item) =>
    item.for === undefined
      ? toEveryone([item])
      : [{ item: item.name, to: 'group', id: item.for, until: null } as const],
  );

/** What of a pool its template gave, to hold it against later. */
export function givenOf({
  hosts: _hosts,
  seats: _seats,
  grants: _grants,
  lastDisk: _disk,
  ...given
}: PoolIntent): GivenPool {
  return given;
}
