import {
  binsOf,
  fits,
  openTo,
  put,
  RESOURCES,
  type Amounts,
  type Bin,
  type HostNeed,
  type Node,
  type Placed,
} from './bins';
import { exchange, openLooks } from './exchange';

/** Where more are left than these, the site is full, and no other order helps. */
const MOST_TO_REPAIR = 20;

export interface Placement {
  readonly placed: readonly Placed[];
  /** Each host that found no node, with the reason in plain words. */
  readonly left: readonly { readonly host: HostNeed; readonly why: string }[];
}

/**
 * Which node carries which host. Vector bin packing, largest host first.
 *
 * With `spread`, a host goes to the zone and then the node that has fewest of its pool, and among those to the fullest
 * that holds it. Without it, to the node whose free amounts point most nearly the way the host's needs do (the
 * dot-product rule; Panigrahy, Talwar, Uyeda, Wieder, "Heuristics for Vector Bin Packing", 2011), used nodes first.
 * Where a host fits nowhere any more, those that were placed before it make room by exchange; and where that is not
 * enough either, all are packed anew in other orders. Only what none of that places is left.
 *
 * @param present hosts that are placed already and stay where they are
 */
export function place(
  hosts: readonly HostNeed[],
  nodes: readonly Node[],
  present: readonly Placed[],
  how: 'spread' | 'pack',
): Placement {
  const first = attempt(hosts, nodes, present, how, how === 'pack' ? mixed : largestBy(greatestPart));
  if (first.left.length === 0) return first;
  if (first.left.length > MOST_TO_REPAIR) {
    const other = attempt(hosts, nodes, present, 'pack', mixed);
    return other.left.length < first.left.length ? other : first;
  }
  return [greatestPart, allParts, ...RESOURCES.map(partOf)]
    .map((weight) => attempt(hosts, nodes, present, 'pack', largestBy(weight)))
    .reduce((best, other) => (other.left.length < best.left.length ? other : best), first);
}

function attempt(
  hosts: readonly HostNeed[],
  nodes: readonly Node[],
  present: readonly Placed[],
  how: 'spread' | 'pack',
  order: Order,
): Placement {
  const bins = binsOf(nodes, present);
  const totals = totalsOf(nodes);
  const left: HostNeed[] = [];
  const looks = openLooks();
  for (const host of order(hosts, totals)) {
    const allowed = openTo(bins, host.customer);
    const fitting = allowed.filter((bin) => fits(bin, host));
    const bin = how === 'spread' ? spreadChoice(fitting, allowed, host) : packChoice(fitting, host);
    if (bin) put(bin, host);
    else if (!exchange(host, bins, looks)) left.push(host);
  }
  return {
    placed: bins.flatMap(({ node, fresh }) => [...fresh].map((host) => ({ ...host, node: node.id }))),
    left: left.map((host) => ({ host, why: whyNot(openTo(bins, host.customer), host) })),
  };
}

/**
 * Largest first among those that take more of a node's memory than of its vCPU, and among the others; and the two in turn,
 * by what each takes together: what the ones leave of a node suits the others.
 */
function mixed(hosts: readonly HostNeed[], totals: Amounts): HostNeed[] {
  const ordered = largestBy(greatestPart)(hosts, totals);
  const isWide = (host: HostNeed): boolean => host.memoryGiB / totals.memoryGiB >= host.vcpu / totals.vcpu;
  const sides = [ordered.filter(isWide), ordered.filter((host) => !isWide(host))];
  const whole = sides.map((side) => side.reduce((sum, host) => sum + greatestPart(host, totals), 0) || 1);
  const at = [0, 0];
  const share = [0, 0];
  const order: HostNeed[] = [];
  while (order.length < ordered.length) {
    const side =
      (at[0] ?? 0) >= (sides[0]?.length ?? 0) ||
      ((at[1] ?? 0) < (sides[1]?.length ?? 0) && (share[1] ?? 0) < (share[0] ?? 0))
        ? 1
        : 0;
    const host = sides[side]?.[at[side] ?? 0];
    if (!host) break;
    order.push(host);
    at[side] = (at[side] ?? 0) + 1;
    share[side] = (share[side] ?? 0) + greatestPart(host, totals) / (whole[side] ?? 1);
  }
  return order;
}

/** In which order the hosts are placed. */
type Order = (hosts: readonly HostNeed[], totals: Amounts) => HostNeed[];

const largestBy =
  (weight: Weight): Order =>
  (hosts, totals) =>
    [...hosts].sort((a, b) => weight(b, totals) - weight(a, totals));

/** How large a host is, by the parts that it takes of an average node. */
type Weight = (host: HostNeed, totals: Amounts) => number;

const parts = (host: HostNeed, totals: Amounts): number[] =>
  RESOURCES.map((resource) => host[resource] / totals[resource]);
const greatestPart: Weight = (host, totals) => Math.max(...parts(host, totals));
const allParts: Weight = (host, totals) => parts(host, totals).reduce((sum, part) => sum + part, 0);
const partOf =
  (resource: keyof Amounts): Weight =>
  (host, totals) =>
    host[resource] / totals[resource];

function totalsOf(nodes: readonly Node[]): Amounts {
  const total = (resource: keyof Amounts): number =>
    nodes.reduce((sum, node) => sum + node[resource], 0) || 1;
  return { vcpu: total('vcpu'), memoryGiB: total('memoryGiB'), diskGiB: total('diskGiB') };
}

function spreadChoice(fitting: readonly Bin[], allowed: readonly Bin[], host: HostNeed): Bin | undefined {
  const { pool } = host;
  const inPool = (bin: Bin): number => bin.poolHosts.get(pool) ?? 0;
  const zones = new Map<string, number>();
  for (const bin of allowed) zones.set(bin.node.zone, (zones.get(bin.node.zone) ?? 0) + inPool(bin));
  const rank = (bin: Bin): [number, number, number] => [
    zones.get(bin.node.zone) ?? 0,
    inPool(bin),
    bin.free.memoryGiB / bin.node.memoryGiB,
  ];
  return least(fitting, rank);
}

function packChoice(fitting: readonly Bin[], host: HostNeed): Bin | undefined {
  return least(fitting, (bin) => {
    const used = RESOURCES.some((resource) => bin.free[resource] < bin.node[resource]);
    return [used ? 0 : 1, -alignment(bin, host), 0];
  });
}

/** Cosine of the angle between what a host needs and what a node has free, each as a part of the node. */
function alignment(bin: Bin, host: HostNeed): number {
  let dot = 0;
  let need = 0;
  let free = 0;
  for (const resource of RESOURCES) {
    const a = host[resource] / bin.node[resource];
    const b = bin.free[resource] / bin.node[resource];
    dot += a * b;
    need += a * a;
    free += b * b;
  }
  return need === 0 || free === 0 ? 0 : dot / Math.sqrt(need * free);
}

function least(bins: readonly Bin[], rank: (bin: Bin) => [number, number, number]): Bin | undefined {
  let best: { bin: Bin; rank: [number, number, number] } | undefined;
  for (const bin of bins) {
    const own = rank(bin);
    if (!best || before(own, best.rank)) best = { bin, rank: own };
  }
  return best?.bin;
}

function before(a: readonly number[], b: readonly number[]): boolean {
  for (const [index, value] of a.entries()) {
    const other = b[index] ?? 0;
    if (value !== other) return value < other;
  }
  return false;
}

const LABEL: Readonly<Record<keyof Amounts, [name: string, unit: string]>> = {
  vcpu: ['vCPU', ''],
  memoryGiB: ['memory', ' GiB'],
  diskGiB: ['disk', ' GiB'],
};

function whyNot(open: readonly Bin[], host: HostNeed): string {
  const { customer } = host;
  if (open.length === 0) return `no node here is open to ${customer}`;
  const up = open.filter((bin) => bin.node.isDown !== true);
  if (up.length === 0) {
    const ids = open.map((bin) => bin.node.id).join(', ');
    return open[0]?.node.dedicatedTo === customer
      ? `the nodes that are ${customer}’s own are down: ${ids}`
      : `every node that is open to ${customer} is down: ${ids}`;
  }
  const short = RESOURCES.filter((resource) => up.every((bin) => bin.free[resource] < host[resource]));
  const [resource] = short;
  if (!resource) return 'no single node has enough of everything at once';
  const most = Math.max(0, ...up.map((bin) => bin.free[resource]));
  const [name, unit] = LABEL[resource];
  return `${name}: needs ${host[resource]}${unit}, the freest node has ${most}${unit}`;
}

/** Room left on each node, after what it carries. */
export function roomOn(
  nodes: readonly Node[],
  present: readonly Placed[],
): (Node & { readonly free: Amounts })[] {
  return binsOf(nodes, present).map(({ node, free }) => ({ ...node, free }));
}

/** No packing onto nodes alike can use fewer than this: the total need of each resource over what one node has. */
export function volumeBound(hosts: readonly HostNeed[], node: Node): number {
  return Math.max(
    0,
    ...RESOURCES.map((resource) =>
      Math.ceil(hosts.reduce((sum, host) => sum + host[resource], 0) / node[resource] - 1e-9),
    ),
  );
}
