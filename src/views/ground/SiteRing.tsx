import type { MachineSize } from '../../core/sizing';
import { Ring } from '../../ui/Ring';

export interface NodeFacts {
  readonly id: string;
  readonly zone: string;
  readonly state: 'up' | 'lost';
  readonly dedicatedTo: string | null;
  readonly vcpu: number;
  readonly memoryGiB: number;
  readonly hosts: number;
  readonly memoryUsed: number;
  readonly vcpuUsed: number;
}

export interface SiteFacts {
  readonly code: string;
  readonly name: string;
  readonly kind: 'own nodes' | 'hosted region';
  readonly provider: string;
  readonly images: readonly { readonly name: string; readonly diskGiB: number }[];
  readonly sizes: readonly MachineSize[];
  readonly quota: { readonly vcpu: number; readonly vcpuUsed: number } | null;
  readonly nodes: readonly NodeFacts[];
  readonly hosts: number;
  readonly signIn: { readonly worked: boolean; readonly says: string };
}

/** How full: an arc for each node, or one for a quota. */
export function SiteRing({ site, size }: { readonly site: SiteFacts; readonly size: number }) {
  const [used, room] = site.quota
    ? [site.quota.vcpuUsed, site.quota.vcpu]
    : [total(site.nodes, (node) => node.memoryUsed), total(site.nodes, (node) => node.memoryGiB)];
  const full = room === 0 ? 0 : used / room;
  const arcs = site.quota
    ? [{ status: 'serving' as const, hosts: 1, fill: full }]
    : site.nodes.map((node) => ({
        status: node.state === 'up' ? ('serving' as const) : ('unwell' as const),
        hosts: 1,
        fill: node.memoryUsed / node.memoryGiB,
      }));
  const percent = Math.round(full * 100);
  return (
    <Ring arcs={arcs} size={size} label={`${site.name}: ${percent} % full`} unit="full">
      {percent} %
    </Ring>
  );
}

const total = (nodes: readonly NodeFacts[], of: (node: NodeFacts) => number): number =>
  nodes.reduce((sum, node) => sum + of(node), 0);
