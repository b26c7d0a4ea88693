/** A server of a site. Amounts are what it may carry: vCPU already counts overcommit. */
export interface Node {
  readonly id: string;
  readonly zone: string;
  readonly vcpu: number;
  readonly memoryGiB: number;
  readonly diskGiB: number;
  /** Customer who alone may use it; undefined: everyone. */
  readonly dedicatedTo?: string | undefined;
}

export interface HostNeed {
  readonly id: string;
  readonly customer: string;
  readonly pool: string;
  readonly vcpu: number;
  readonly memoryGiB: number;
  readonly diskGiB: number;
}

export interface Placed extends HostNeed {
  readonly node: string;
}

export interface Placement {
  readonly placed: readonly Placed[];
  /** Each host that found no node, with the reason in plain words. */
  readonly left: readonly { readonly host: HostNeed; readonly why: string }[];
}

const RESOURCES = ['vcpu', 'memoryGiB', 'diskGiB'] as const;
type Amounts = Record<(typeof RESOURCES)[number], number>;

interface Bin {
  readonly node: Node;
  readonly free: Amounts;
  readonly poolHosts: Map<string, number>;
}

/**
 * Which node carries which host. Vector bin packing, largest host first.
 *
 * With `spread`, a host goes to the zone and then the node that has fewest of its pool, and among those to the fullest
 * that holds it. Without it, to the node whose free amounts point most nearly the way the host's needs do (the
 * dot-product rule; Panigrahy, Talwar, Uyeda, Wieder, "Heuristics for Vector Bin Packing", 2011), used nodes first.
 *
 * @param present hosts that are placed already and stay where they are
 */
export function place(
  hosts: readonly HostNeed[],
  nodes: readonly Node[],
  present: readonly Placed[],
  how: 'spread' | 'pack',
): Placement {
  const bins = nodes.map((node) => binOf(node, present));
  const placed: Placed[] = [];
  const left: { host: HostNeed; why: string }[] = [];
  for (const host of [...hosts].sort(largestFirst(nodes))) {
    const allowed = openTo(bins, host.customer);
    const fitting = allowed.filter((bin) => fits(bin, host));
    const bin = how === 'spread' ? spreadChoice(fitting, allowed, host) : packChoice(fitting, host);
    if (!bin) {
      left.push({ host, why: whyNot(allowed, host) });
      continue;
    }
    take(bin, host);
    placed.push({ ...host, node: bin.node.id });
  }
  return { placed, left };
}

/** A customer who bought nodes is kept to them; everyone else keeps off them. */
function openTo(bins: readonly Bin[], customer: string): readonly Bin[] {
  const own = bins.filter((bin) => bin.node.dedicatedTo === customer);
  return own.length > 0 ? own : bins.filter((bin) => bin.node.dedicatedTo === undefined);
}

function binOf(node: Node, present: readonly Placed[]): Bin {
  const bin: Bin = {
    node,
    free: { vcpu: node.vcpu, memoryGiB: node.memoryGiB, diskGiB: node.diskGiB },
    poolHosts: new Map(),
  };
  for (const host of present) if (host.node === node.id) take(bin, host);
  return bin;
}

function take(bin: Bin, host: HostNeed): void {
  for (const resource of RESOURCES) bin.free[resource] -= host[resource];
  const { pool } = host;
  bin.poolHosts.set(pool, (bin.poolHosts.get(pool) ?? 0) + 1);
}

const fits = (bin: Bin, host: HostNeed): boolean =>
  RESOURCES.every((resource) => host[resource] <= bin.free[resource]);

/** Largest first, each host measured by the resource of which it takes the greatest part of an average node. */
function largestFirst(nodes: readonly Node[]): (a: HostNeed, b: HostNeed) => number {
  const total = (resource: keyof Amounts): number =>
    nodes.reduce((sum, node) => sum + node[resource], 0) || 1;
  const totals: Amounts = { vcpu: total('vcpu'), memoryGiB: total('memoryGiB'), diskGiB: total('diskGiB') };
  const weight = (host: HostNeed): number =>
    Math.max(...RESOURCES.map((resource) => host[resource] / totals[resource]));
  return (a, b) => weight(b) - weight(a);
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

function whyNot(allowed: readonly Bin[], host: HostNeed): string {
  if (allowed.length === 0) return `no node here is open to ${host.customer}`;
  const short = RESOURCES.filter((resource) => allowed.every((bin) => bin.free[resource] < host[resource]));
  const [resource] = short;
  if (!resource) return 'no single node has enough of everything at once';
  const most = Math.max(0, ...allowed.map((bin) => bin.free[resource]));
  const [name, unit] = LABEL[resource];
  return `${name}: needs ${host[resource]}${unit}, the freest node has ${most}${unit}`;
}

/** Room left on each node, after what it carries. */
export function roomOn(
  nodes: readonly Node[],
  present: readonly Placed[],
): (Node & { readonly free: Amounts })[] {
  return nodes.map((node) => ({ ...node, free: binOf(node, present).free }));
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
