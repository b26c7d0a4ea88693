import { writeBlock } from '../addressing';
import type { Facts, Quota } from '../facts';
import type { Placed } from '../placement';
import { addAmounts, takenBy, type Amounts } from '../plans';
import {
  claimsOf,
  quotasIn,
  roomIn,
  SPACES,
  valuesIn,
  type Claim,
  type ClaimedAt,
  type ResourceKind,
  type RoomClaim,
  type Wanted,
} from '../resources';
import { kindsByKey } from './compare';
import type { Proposal } from './proposal';
import { editedOf } from './tasks';

/** What a proposal takes of what is scarce, and can be kept for it. */
export interface Takes {
  /** The name of the environment that it makes; null: it makes none. */
  readonly environment: string | null;
  /** What only one can have: computer names, addresses, subnets, hosts of the ready shelf. */
  readonly values: readonly { readonly space: string; readonly value: string }[];
  /** The address block that the customer gets with it; null: it has one. */
  readonly block: string | null;
  /** Room on nodes; without a node, of a quota. */
  readonly placed: readonly Placed[];
  /** Of quotas beside that of vCPU. */
  readonly quotas: readonly { readonly of: string; readonly amount: number }[];
  /** Of the customer's plan. */
  readonly amounts: Amounts;
}

/** Whether it takes something that other customers could take at the same site, too. */
export const isTakenFromSite = ({ values, block, placed, quotas }: Takes): boolean =>
  block !== null || values.length + placed.length + quotas.length > 0;

/** The values that are taken of a space. */
export const takenOf = ({ values }: Pick<Takes, 'values'>, space: string): string[] =>
  values.filter((one) => one.space === space).map(({ value }) => value);

/** Where the resources of some facts claim what they take. */
export const claimedAt = ({ customer, site }: Pick<Facts, 'customer' | 'site'>): ClaimedAt => ({
  realm: customer.realm,
  site: site.code,
  sizes: site.sizes,
});

/** What a proposal takes beyond what its environment has. */
export function takesOf(
  kinds: readonly ResourceKind[],
  facts: Facts,
  { intent, wanted }: Pick<Proposal, 'intent' | 'wanted'>,
): Takes {
  const kindOf = kindsByKey(kinds);
  const known = new Map(facts.known.map((one) => [one.key, one]));
  const { sizes } = facts.site;
  const at = claimedAt(facts);
  const claims = (one: Pick<Wanted, 'kind' | 'name' | 'attributes'>): readonly Claim[] =>
    claimsOf(kindOf(one.kind), one, at);
  const edited = editedOf(facts, wanted).map((one) => {
    const before = known.get(one.key);
    return { ...one, after: claims(one), before: before?.wanted === true ? claims(before) : [] };
  });
  const values = edited.flatMap(({ before, after }) => {
    const had = new Set(valuesIn(before).map(({ space, value }) => `${space} ${value}`));
    return valuesIn(after).filter(({ space, value }) => !had.has(`${space} ${value}`));
  });
  const { block, code } = facts.customer;
  return {
    environment: facts.environment || intent === null ? null : intent.name,
    values: values.map(({ space, value }) => ({ space, value })),
    block: block && values.some(({ space }) => space === SPACES.network) ? writeBlock(block) : null,
    placed: edited.flatMap(({ key, name, before, after }): Placed[] => {
      const more = roomBeyond(roomIn(before), roomIn(after));
      return more ? [{ id: name, customer: code, pool: `${code}/${key.split(':')[1] ?? ''}`, ...more }] : [];
    }),
    quotas: edited.flatMap(({ before, after }) =>
      moreOfQuotas(before.filter(isOfOthers), after.filter(isOfOthers)).filter(({ amount }) => amount > 0),
    ),
    amounts: addAmounts(takenBy(intent, sizes), takenBy(facts.environment?.intent ?? null, sizes), -1),
  };
}

const isOfOthers = ({ takes }: Claim): boolean => takes === 'quota';

/** What more is taken of each quota than before; less of it is freed only once it is really given up. */
export function moreOfQuotas(
  before: readonly Claim[],
  after: readonly Claim[],
): { readonly of: string; readonly amount: number }[] {
  const had = new Map(quotasIn(before).map(({ of, amount }) => [of, amount]));
  return quotasIn(after).map(({ of, amount }) => ({ of, amount: Math.max(0, amount - (had.get(of) ?? 0)) }));
}

/** The room that is more than before; undefined: none is. What is made of a ready host takes the room of that. */
function roomBeyond(
  before: RoomClaim | undefined,
  after: RoomClaim | undefined,
): Pick<Placed, 'node' | 'vcpu' | 'memoryGiB' | 'diskGiB'> | undefined {
  if (!after || (after.stands === true && !before)) return undefined;
  // Elsewhere all of it is more: what it had stays taken until it has really moved, or changed its family.
  const isSame =
    before && (after.node === null ? before.family === after.family : before.node === after.node);
  const beyond = (amount: 'vcpu' | 'memoryGiB' | 'diskGiB'): number =>
    Math.max(0, after[amount] - (isSame === true ? before[amount] : 0));
  const more = { vcpu: beyond('vcpu'), memoryGiB: beyond('memoryGiB'), diskGiB: beyond('diskGiB') };
  return more.vcpu + more.memoryGiB + more.diskGiB === 0
    ? undefined
    : { node: after.node ?? after.family, ...more };
}

/** A quota with so much more of it used: of the whole, of each one's family, and of what else there is so much of. */
export function quotaWith(
  quota: Quota,
  placed: readonly Pick<Placed, 'node' | 'vcpu'>[],
  others: Takes['quotas'] = [],
): Quota {
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
    ...(quota.others
      ? {
          others: quota.others.map((one) => ({
            ...one,
            used: others
              .filter(({ of }) => of === one.of)
              .reduce((sum, { amount }) => sum + amount, one.used),
          })),
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
  const ready = new Set(kept.flatMap(({ takes }) => takenOf(takes, SPACES.ready)));
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
      environments: [...customer.environments, ...own.flatMap((one) => one.environment ?? [])],
      taken: takenWith(
        customer.taken,
        own.flatMap((one) => one.values),
      ),
    },
    site: {
      ...site,
      present: [...site.present, ...placed],
      quota:
        site.quota &&
        quotaWith(
          site.quota,
          placed,
          kept.flatMap(({ takes }) => takes.quotas),
        ),
      shelf: site.shelf?.filter((one) => !ready.has(one.ref)),
    },
  };
}

function takenWith(taken: Facts['customer']['taken'], more: Takes['values']): Facts['customer']['taken'] {
  const spaces = new Set([...Object.keys(taken), ...more.map(({ space }) => space)]);
  return Object.fromEntries(
    [...spaces].map((space) => [space, [...(taken[space] ?? []), ...takenOf({ values: more }, space)]]),
  );
}
