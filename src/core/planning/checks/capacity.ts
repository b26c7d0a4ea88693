import type { Facts, Quota } from '../../facts';
import { claimsOf, vcpuOf, type Claim } from '../../resources';
import { claimedAt, moreOfQuotas } from '../takes';
import { bad, good, seen, type Found, type Plan, type PlanCheck } from './shape';
import { isReady } from './shelf';

/** Whether there is room for it: on the site's nodes, or in its quotas. */
export const capacity: PlanCheck = {
  key: 'capacity',
  title: ({ facts }) => (facts.site.kind === 'own nodes' ? 'Node capacity' : 'Quota'),
  fix: { of: 'everyone', page: 'ground', says: 'Sites' },
  finds: (plan) => (plan.facts.site.quota ? inQuotas(plan, plan.facts.site.quota) : onNodes(plan)),
};

function onNodes({ findings, facts }: Plan): Found | undefined {
  const [left] = findings.left;
  if (left)
    return bad(
      `${findings.left.length} of ${findings.left.length + findings.placed.length} hosts fit nowhere: ${left.why}`,
      'Choose another site or free a node.',
    );
  if (findings.placed.length === 0) return undefined;
  const nodes = new Set(findings.placed.map((host) => host.node)).size;
  const fit = good(`all fit, on ${nodes} ${nodes === 1 ? 'node' : 'nodes'}`);
  return seen(fit, zonesSay(findings, facts), facts.now);
}

/** `zone a: 3 hosts on 2 nodes, 120 GiB of memory left there`, zone by zone. */
function zonesSay({ placed }: Plan['findings'], { site }: Facts): string {
  const zoneOf = new Map(site.nodes.map(({ id, zone }) => [id, zone]));
  const zones = [
    ...new Set(site.nodes.filter(({ isDown }) => isDown !== true).map(({ zone }) => zone)),
  ].sort();
  return zones
    .map((zone) => {
      const own = placed.filter(({ node }) => zoneOf.get(node) === zone);
      const nodes = site.nodes.filter((node) => node.zone === zone && node.isDown !== true);
      const memory = nodes.reduce((sum, { memoryGiB }) => sum + memoryGiB, 0);
      const taken = [...site.present, ...own]
        .filter(({ node }) => zoneOf.get(node) === zone)
        .reduce((sum, { memoryGiB }) => sum + memoryGiB, 0);
      return `zone ${zone}: ${own.length}, ${Math.max(0, memory - taken)} GiB of memory left`;
    })
    .join('; ');
}

function inQuotas(plan: Plan, quota: Quota): Found | undefined {
  const needed = neededOf(plan);
  const limits = limitsOf(quota).flatMap(({ of, most, used }) => {
    const need = needed.get(of) ?? 0;
    return need > 0 ? [{ of, most, needed: need, free: most - used }] : [];
  });
  const short = limits.find((one) => one.needed > one.free);
  if (short)
    return bad(
      `${short.needed} ${short.of} needed, ${short.free} of ${short.most} free`,
      'Ask for more quota.',
    );
  if (limits.length === 0) return undefined;
  return good(limits.map((one) => `${one.needed} of ${one.free} free ${one.of}`).join('; '));
}

/** Every quota of a site: of vCPU as a whole, of families of sizes within that, and of whatever else. */
const limitsOf = ({
  vcpu,
  vcpuUsed,
  families = [],
  others = [],
}: Quota): { readonly of: string; readonly most: number; readonly used: number }[] => [
  { of: vcpuOf(), most: vcpu, used: vcpuUsed },
  ...families.map((one) => ({ of: vcpuOf(one.family), most: one.vcpu, used: one.vcpuUsed })),
  ...others,
];

/** What the plan takes more of each quota. */
function neededOf(plan: Plan): Map<string, number> {
  const known = new Map(plan.facts.known.map((one) => [one.key, one]));
  const at = claimedAt(plan.facts);
  const needed = new Map<string, number>();
  for (const one of plan.tasks) {
    if (!('wanted' in one.task) || isReady(one, plan.facts)) continue;
    const was = known.get(one.key);
    const before: readonly Claim[] = was?.wanted === true ? claimsOf(one.kind, was, at) : [];
    for (const { of, amount } of moreOfQuotas(before, claimsOf(one.kind, one.task.wanted, at)))
      needed.set(of, (needed.get(of) ?? 0) + amount);
  }
  return needed;
}
