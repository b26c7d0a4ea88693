/** A server of a site. Amounts are what it may carry: vCPU already counts overcommit. */
export interface Node {
  readonly id: string;
  readonly zone: string;
  readonly vcpu: number;
  readonly memoryGiB: number;
  readonly diskGiB: number;
  /** Customer who alone may use it; undefined: everyone. */
  readonly dedicatedTo?: string | undefined;
  /** It carries nothing new; whose it is stays so. */
  readonly isDown?: boolean;
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
  /** At a hosted region: the family whose quota it counts against; empty: the whole alone. */
  readonly node: string;
}

export const RESOURCES = ['vcpu', 'memoryGiB', 'diskGiB'] as const;
export type Amounts = Record<(typeof RESOURCES)[number], number>;

/** A node while hosts are put onto it. */
export interface Bin {
  readonly node: Node;
  readonly free: Amounts;
  /** How many hosts of each pool it carries. */
  readonly poolHosts: Map<string, number>;
  /** Those that were put here now, and may still be moved. */
  readonly fresh: Set<HostNeed>;
}

/** @param present hosts that stand already and stay where they are */
export function binsOf(nodes: readonly Node[], present: readonly Placed[]): Bin[] {
  const bins = new Map(
    nodes.map((node): [string, Bin] => [
      node.id,
      {
        node,
        free: { vcpu: node.vcpu, memoryGiB: node.memoryGiB, diskGiB: node.diskGiB },
        poolHosts: new Map(),
        fresh: new Set(),
      },
    ]),
  );
  for (const host of present) {
    const bin = bins.get(host.node);
    if (bin) count(bin, host, 1);
  }
  return [...bins.values()];
}

export function put(bin: Bin, host: HostNeed): void {
  count(bin, host, 1);
  bin.fresh.add(host);
}

export function takeOff(bin: Bin, host: HostNeed): void {
  count(bin, host, -1);
  bin.fresh.delete(host);
}

function count(bin: Bin, host: HostNeed, hosts: 1 | -1): void {
  const { pool } = host;
  for (const resource of RESOURCES) bin.free[resource] -= hosts * host[resource];
  bin.poolHosts.set(pool, (bin.poolHosts.get(pool) ?? 0) + hosts);
}

export const fits = ({ node, free }: Bin, host: HostNeed): boolean =>
  node.isDown !== true && RESOURCES.every((resource) => host[resource] <= free[resource]);

/** A customer who bought nodes is kept to them, also while they are down; everyone else keeps off them. */
export function openTo(bins: readonly Bin[], customer: string): readonly Bin[] {
  const own = bins.filter((bin) => bin.node.dedicatedTo === customer);
  return own.length > 0 ? own : bins.filter((bin) => bin.node.dedicatedTo === undefined);
}
