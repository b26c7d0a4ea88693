import type { Site, SiteNode } from '../../contract';
import { Ring } from '../../ui/Ring';

/** How full: an arc for each node, or one for a quota. */
export function SiteRing({ site, size }: { readonly site: Site; readonly size: number }) {
  const [used, room] = site.quota
    ? [site.quota.vcpuUsed, site.quota.vcpu]
    : [total(site.nodes, (node) => node.memoryUsed), total(site.nodes, (node) => node.memoryGiB)];
  const full = room === 0 ? 0 : used / room;
  const arcs = site.quota
    ? [{ look: 'full' as const, parts: 1, fill: full }]
    : site.nodes.map((node) => ({
        look: node.state === 'up' ? ('full' as const) : ('crossed' as const),
        parts: 1,
        fill: node.memoryUsed / node.memoryGiB,
      }));
  const percent = Math.round(full * 100);
  return (
    <Ring arcs={arcs} size={size} label={`${site.name}: ${percent} % full`} unit="full">
      {percent} %
    </Ring>
  );
}

const total = (nodes: readonly SiteNode[], of: (node: SiteNode) => number): number =>
  nodes.reduce((sum, node) => sum + of(node), 0);
