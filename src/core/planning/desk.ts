import { hostAddresses, parseBlock, planSubnet, writeAddress, writeBlock, type Block } from '../addressing';
import type { Facts, ReadyHost } from '../facts';
import { parseRule, planNames } from '../naming';
import { place, type HostNeed, type Placed } from '../placement';
import { SPACES, type Desk, type Wanted } from '../resources';

/** What allocating came up against. */
export interface Findings {
  readonly names: number;
  readonly firstName: string | undefined;
  readonly namesMissing: number;
  readonly nameFaults: readonly string[];
  readonly addressFaults: readonly string[];
  /** Room in the subnets that were allocated in this proposal, in hosts. */
  readonly room: number;
  readonly placed: readonly Placed[];
  readonly left: readonly { readonly host: HostNeed; readonly why: string }[];
}

interface Made {
  names: string[];
  namesMissing: number;
  nameFaults: string[];
  addressFaults: string[];
  room: number;
  placed: Placed[];
  left: { host: HostNeed; why: string }[];
}

/** Names that no new host can have. */
export const namesTaken = ({ customer, site }: Pick<Facts, 'customer' | 'site'>): string[] => [
  ...(customer.taken[SPACES.name] ?? []),
  ...(site.namesThere ?? []),
  ...(site.namesOfNobody ?? []),
];

/**
 * Allocates for one proposal: what it gives out counts as taken for what it gives out next. The same questions get the
 * same answers.
 */
export function openDesk(
  facts: Facts,
  environment: string,
): { desk: Desk; record: (wanted: Wanted) => void; findings: () => Findings } {
  const { customer, site } = facts;
  const made: Made = {
    names: [],
    namesMissing: 0,
    nameFaults: [],
    addressFaults: [],
    room: 0,
    placed: [],
    left: [],
  };
  const before = new Map(facts.known.map((one) => [one.key, one]));
  const now = new Map<string, Wanted>();
  const subnets = (customer.taken[SPACES.subnet] ?? []).flatMap((cidr) => blockIn(cidr) ?? []);
  const addressesTaken = new Set([
    ...facts.known.map((one) => addressOf(one.attributes.address)),
    ...(customer.taken[SPACES.address] ?? []).map(addressOf),
  ]);
  const present = [...site.present];
  const taken = new Set<string>();
  const given = new Map(Object.entries(customer.taken).map(([space, values]) => [space, new Set(values)]));

  const put = (needs: readonly HostNeed[]): (string | null)[] => {
    const { placed, left } = place(needs, site.nodes, present, 'spread');
    present.push(...placed);
    made.placed.push(...placed);
    made.left.push(...left);
    const nodeOf = new Map(placed.map((one) => [one.id, one.node]));
    return needs.map((need) => nodeOf.get(need.id) ?? null);
  };

  const desk: Desk = {
    environment,
    customer: customer.code,
    sizes: site.sizes,
    known: (key) => {
      const known = before.get(key);
      return known && { ...known, needs: [] };
    },
    of: (key) => now.get(key),
    block: () => (customer.block ? writeBlock(customer.block) : ''),
    subnet: (ceiling) => {
      if (!customer.block) {
        made.addressFaults.push('the customer has no address block at this site');
        return '';
      }
      const plan = planSubnet(customer.block, subnets, ceiling, site.reservedAddresses);
      if (!plan.ok) {
        made.addressFaults.push(plan.problem);
        return '';
      }
      subnets.push(plan.value.subnet);
      made.room += plan.value.room;
      return writeBlock(plan.value.subnet);
    },
    names: (text, role, count) => {
      const rule = parseRule(text);
      if (!rule.ok) {
        made.nameFaults.push(rule.problem);
        return [];
      }
      const context = { customer: customer.code, environment, site: site.code, role };
      const plan = planNames(rule.value, context, count, [...namesTaken(facts), ...made.names]);
      if (count > 0) made.nameFaults.push(...plan.faults);
      made.namesMissing += plan.missing;
      made.names.push(...plan.names);
      return [...plan.names];
    },
    addresses: (cidr, count) => {
      const block = parseBlock(cidr);
      if (!block.ok || count === 0) return [];
      const found = hostAddresses(block.value, site.reservedAddresses, addressesTaken, count);
      for (const address of found) addressesTaken.add(address);
      if (found.length < count)
        made.addressFaults.push(`${cidr} is full: ${count - found.length} hosts would have no address`);
      return found.map(writeAddress);
    },
    free: (space, values, count) => {
      const had = given.get(space) ?? new Set();
      given.set(space, had);
      const found: string[] = [];
      for (const value of values) {
        if (found.length === count) break;
        if (!had.has(value)) found.push(value);
      }
      found.forEach((value) => had.add(value));
      return found;
    },
    ready: ({ size, image, diskGiB }) => {
      const fits = (one: ReadyHost): boolean =>
        one.size === size && one.image === image && one.diskGiB === diskGiB && !taken.has(one.ref);
      const found = site.shelf?.find(fits);
      if (found) taken.add(found.ref);
      return found;
    },
    stray: (ref) => site.strays?.find((one) => one.ref === ref),
    nodes: (needs) => (site.kind === 'hosted region' ? needs.map(() => null) : put(needs)),
    moved: (own, need) => {
      if (site.kind === 'hosted region' || own.node === null) return own.node;
      const more: HostNeed = {
        ...need,
        vcpu: Math.max(0, need.vcpu - own.vcpu),
        memoryGiB: Math.max(0, need.memoryGiB - own.memoryGiB),
        diskGiB: Math.max(0, need.diskGiB - own.diskGiB),
      };
      const home = site.nodes.filter((node) => node.id === own.node);
      const [stays] = place([more], home, present, 'spread').placed;
      if (!stays) return put([need])[0] ?? own.node;
      present.push(stays);
      made.placed.push(stays);
      return own.node;
    },
  };
  return {
    desk,
    record: (wanted) => now.set(wanted.key, wanted),
    findings: () => ({ ...made, names: made.names.length, firstName: made.names[0] }),
  };
}

const blockIn = (cidr: string): Block | undefined => {
  const read = parseBlock(cidr);
  return read.ok ? read.value : undefined;
};

/** An address as a number; -1 for what is none. */
function addressOf(text: unknown): number {
  const block = typeof text === 'string' && text !== '' ? parseBlock(`${text}/32`) : undefined;
  return block?.ok === true ? block.value.base : -1;
}
