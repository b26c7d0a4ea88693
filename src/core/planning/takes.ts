import { parseBlock, writeBlock, type Block } from '../addressing';
import type { Facts, Quota } from '../facts';
import type { Placed } from '../placement';
import { addAmounts, takenBy, type Amounts } from '../plans';
import type { ResourceKind } from '../resources';
import { kindsByKey } from './compare';
import type { Proposal } from './proposal';
import { editedOf } from './tasks';

/** What a proposal takes of what is scarce, and can be kept for it. */
export interface Takes {
  /** The name of the environment that it makes; null: it makes none. */
  readonly environment: string | null;
  /** Computer names. */
  readonly names: readonly string[];
  readonly addresses: readonly string[];
  readonly subnets: readonly Block[];
  /** The address block that the customer gets with it; null: it has one. */
  readonly block: string | null;
  /** Hosts of the ready shelf, by their provider's names. */
  readonly ready: readonly string[];
  /** Room on nodes; without a node, of a quota. */
  readonly placed: readonly Placed[];
  /** Of the customer's plan. */
  readonly amounts: Amounts;
}

/** Whether it takes something that other customers could take at the same site, too. */
export const isTakenFromSite = ({ subnets, block, ready, placed, addresses }: Takes): boolean =>
  block !== null || subnets.length + ready.length + placed.length + addresses.length > 0;

/** What a proposal takes beyond what its environment has. */
export function takesOf(
  kinds: readonly ResourceKind[],
  facts: Facts,
  { intent, wanted }: Pick<Proposal, 'intent' | 'wanted'>,
): Takes {
  const kindOf = kindsByKey(kinds);
  const known = new Map(facts.known.map((one) => [one.key, one]));
  const { sizes } = facts.site;
  const edited = editedOf(facts, wanted);
  const fresh = edited.filter((one) => known.get(one.key)?.wanted !== true);
  const text = (of: (typeof fresh)[number], name: string): string[] => {
    const value = of.attributes[name];
    return typeof value === 'string' && value !== '' ? [value] : [];
  };
  const { block } = facts.customer;
  return {
    environment: facts.environment || intent === null ? null : intent.name,
    names: fresh
      .filter(({ kind, name }) => kindOf(kind).carriesSessions === true && name !== '')
      .map((one) => one.name),
    addresses: fresh.flatMap((one) => text(one, 'address')),
    subnets: fresh
      .filter(({ kind }) => kind === 'subnet')
      .flatMap((one) => text(one, 'cidr'))
      .flatMap((cidr) => {
        const read = parseBlock(cidr);
        return read.ok ? [read.value] : [];
      }),
    block: fresh.length > 0 && block ? writeBlock(block) : null,
    ready: fresh.flatMap((one) => text(one, 'from')),
    placed: edited.flatMap((one): Placed[] => {
      const room = kindOf(one.kind).room;
      const after = room?.(one.attributes, sizes);
      // What is ready stands already, and takes its room there.
      if (!after || text(one, 'from').length > 0) return [];
      const before = known.get(one.key);
      const family = familyIn(one.attributes.size, sizes);
      // In another family all of it is more: what it had stays taken until it has really changed.
      const isSame =
        before?.wanted === true &&
        (after.node === null
          ? familyIn(before.attributes.size, sizes) === family
          : // On another node all of it is more: what it had stays taken until it has really moved.
            before.attributes.node === after.node);
      const had = isSame ? room?.(before.attributes, sizes) : undefined;
      const vcpu = Math.max(0, after.vcpu - (had?.vcpu ?? 0));
      const memoryGiB = Math.max(0, after.memoryGiB - (had?.memoryGiB ?? 0));
      const diskGiB = Math.max(0, after.diskGiB - (had?.diskGiB ?? 0));
      if (vcpu + memoryGiB + diskGiB === 0) return [];
      const pool = one.key.split(':')[1] ?? '';
      const { code } = facts.customer;
      return [
        {
          id: one.name,
          customer: code,
          pool: `${code}/${pool}`,
          node: after.node ?? family,
          vcpu,
          memoryGiB,
          diskGiB,
        },
      ];
    }),
    amounts: addAmounts(takenBy(intent, sizes), takenBy(facts.environment?.intent ?? null, sizes), -1),
  };
}

/** The family that a size counts against; empty: the whole alone. */
const familyIn = (size: unknown, sizes: Facts['site']['sizes']): string =>
  sizes.find(({ key }) => key === size)?.family ?? '';

/** A quota with so much more of it used: of the whole, and of each one's family. */
export function quotaWith(quota: Quota, placed: readonly Pick<Placed, 'node' | 'vcpu'>[]): Quota {
  const used = (family?: string): number =>
    placed
      .filter((one) => family === undefined || one.node === family)
      .reduce((sum, { vcpu }) => sum + vcpu, 0);
  return {
    ...quota,
    vcpuUsed: quota.vcpuUsed + used(),
    ...(quota.families
      ? {
          families: quota.families.map((one) => ({ ...one, vcpuUsed: one.vcpuUsed + used(one.family) })),
        }
      : {}),
  };
}

/** Something of a customer's that is kept for a proposal, or of another's, of whom only the room is told. */
export interface Kept {
  readonly own: boolean;
  readonly takes: Takes;
}

/** The facts with what is kept for other proposals counted as taken: so that two cannot count on the same. */
export function withKept(facts: Facts, kept: readonly Kept[]): Facts {
  if (kept.length === 0) return facts;
  const own = kept.filter((one) => one.own).map(({ takes }) => takes);
  const ready = new Set(kept.flatMap(({ takes }) => takes.ready));
  const placed = kept.flatMap(({ own: isOwn, takes }) =>
    takes.placed.map((one, n) => ({
      ...one,
      id: `kept ${n} ${isOwn ? one.id : ''}`,
      ...(isOwn ? {} : { customer: '', pool: '' }),
    })),
  );
  const { customer, site } = facts;
  return {
    ...facts,
    customer: {
      ...customer,
      takes: own.reduce((all, one) => addAmounts(all, { ...one.amounts, people: 0 }), customer.takes),
      subnets: [...customer.subnets, ...own.flatMap((one) => one.subnets)],
      environments: [...customer.environments, ...own.flatMap((one) => one.environment ?? [])],
      namesTaken: [...customer.namesTaken, ...own.flatMap((one) => one.names)],
      addressesKept: own.flatMap((one) => one.addresses),
    },
    site: {
      ...site,
      present: [...site.present, ...placed],
      quota: site.quota && quotaWith(site.quota, placed),
      shelf: site.shelf?.filter((one) => !ready.has(one.ref)),
    },
  };
}
