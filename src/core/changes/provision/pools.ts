import type { Facts } from '../../facts';
import { toEveryone } from '../../grants';
import type { GivenPool, PoolIntent } from '../../intent';
import { moreHosts } from '../../resources';
import { isPersonal } from '../../sizing';
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
    items,
    // Who is in a group is known later: at first it is there for all of the customer's people.
    grants: toEveryone(items),
    crosses,
    may,
    hosts: [],
  };
  return moreHosts(empty, chosen?.hosts ?? 0);
}

/** What of a pool its template gave, to hold it against later. */
export function givenOf({ hosts: _hosts, seats: _seats, grants: _grants, ...given }: PoolIntent): GivenPool {
  return given;
}
