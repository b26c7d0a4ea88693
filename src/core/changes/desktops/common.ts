import type { Facts, KnownResource, NamedAccount } from '../../facts';
import { lastDiskOf, patchHost, type HostIntent, type Intent, type PoolIntent } from '../../intent';
import { lifting, together, type OverrideEdit } from '../../overrides';
import type { Refusal } from '../../planning';
import { hostKey } from '../../resources';
import { ok, refuse, type Result } from '../../result';
import { isPersonal } from '../../sizing';
import { hostsById } from '../common';

/** A host of one person, with what is wanted of it. */
export interface Desktop {
  readonly known: KnownResource;
  readonly pool: PoolIntent;
  readonly host: HostIntent;
}

/** Desktops of people's own, by their hosts' ids. Refuses, beside the field, what is none. */
export function desktopsById(
  intent: Intent | null,
  facts: Facts,
  ids: readonly string[],
  field = 'hosts',
): Result<{ intent: Intent; desktops: Desktop[] }, Refusal> {
  if (intent === null) return refuse({ environment: 'is not there' });
  const found = hostsById(facts, ids);
  if (!found) return refuse({ [field]: 'one of them is not a host of this environment' });
  const desktops = found.flatMap((known): Desktop[] => {
    for (const pool of intent.pools) {
      const own = pool.hosts.find(({ slot }) => hostKey(pool.role, slot) === known.key);
      if (own && isPersonal(pool)) return [{ known, pool, host: own }];
    }
    return [];
  });
  if (desktops.length < found.length)
    return refuse({ [field]: 'one of them is nobody’s alone: many share it' });
  return ok({ intent, desktops });
}

export const keysOf = (desktops: readonly Desktop[]): ReadonlySet<string> =>
  new Set(desktops.map(({ known }) => known.key));

/** Their power is as their intent says from then on, whatever was set by hand before. */
export function liftPower(
  facts: Pick<Facts, 'known' | 'overrides'>,
  ids: readonly string[],
): Result<OverrideEdit, Refusal> {
  const hosts = hostsById(facts, ids) ?? [];
  return ok(together(hosts.map(({ key }) => lifting('power', key, facts.overrides ?? []))));
}

/** `SVG-DRAW01 of kim`, or how many. */
export const desktopsSay = (desktops: readonly Desktop[]): string => {
  const [first] = desktops;
  if (!first || desktops.length > 1) return `${desktops.length} desktops`;
  return `${first.known.name}${first.host.person === undefined ? '' : ` of ${first.host.person}`}`;
};

/** What of a host's entry says whose it is. */
export const ownedBy = ({ account, person }: NamedAccount): { person: string; personId: string } => ({
  person: account,
  personId: person,
});

/** What a host is once it is nobody's. */
export const nobodys = (host: HostIntent): HostIntent =>
  patchHost(host, { person: undefined, personId: undefined, leftAt: undefined });

/** The disk that a desktop has by now, as it is put aside. */
export const putAside = (
  { pool, host }: Desktop,
  until: number,
): Readonly<Record<string, string | number | boolean>> => ({
  pool: pool.role,
  slot: host.slot,
  disk: host.disk ?? 1,
  gib: pool.ownDiskGiB,
  person: host.person ?? '',
  ...(host.personId === undefined ? {} : { personId: host.personId }),
  until,
});

/** With another disk than any had before: what it had goes, or was put aside. */
export const withNextDisk = (intent: Intent, { role }: PoolIntent, host: HostIntent): HostIntent =>
  patchHost(host, { disk: lastDiskOf(intent, role) + 1 });

export const DRAIN = {
  minutes: 10,
  message: 'Your desktop is about to change. Please save and sign out.',
};
