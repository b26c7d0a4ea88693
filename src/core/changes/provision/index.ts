import type { Facts } from '../../facts';
import type { HostIntent, Intent, PoolIntent } from '../../intent';
import { defineChange } from '../../planning';
import { moreHosts } from '../../resources';
import { ok, refuse } from '../../result';
import { imageFor } from '../common';
import { provisionChecks } from './checks';
import { provisionInput, type ProvisionInput } from './input';
import { sizePools, type SizedPool } from './sizes';

export { sizePools, type SizedPool } from './sizes';
export type { PoolChoice, ProvisionInput } from './input';

/** Makes an environment from a template: a difference from nothing. */
export const provision = defineChange<ProvisionInput>({
  kind: 'provision',
  subject: 'new environment',
  of: 'customers',
  verb: 'Provision',
  input: provisionInput,
  roles: ['engineer', 'lead'],
  confirm: 'press',
  undo: 'by difference',
  whole: true,
  title: (input) => `Provision ${input.environment}`,
  edit: (_intent, input, facts) => {
    const { template } = facts;
    if (!template) return refuse({ template: 'is not known' });
    const roles = template.spec.pools.map(({ role }) => role);
    const strange = input.pools?.find(({ role }) => !roles.includes(role));
    if (strange) return refuse({ pools: `${template.code} has no pool ${strange.role}` });
    return ok({
      name: input.environment,
      site: input.site,
      template: { code: template.code, revision: template.revision },
      naming: facts.customer.naming === '' ? template.spec.naming : facts.customer.naming,
      people: input.people,
      pools: readyFirst(
        sizePools(input, facts).map((pool) => poolOf(pool, facts)),
        facts.customer.plan.readyHosts,
      ),
      more: {},
    } satisfies Intent);
  },
  policy: (_input, facts) => ({
    atATime: facts.template?.spec.atATime ?? 1,
    failureLimit: facts.template?.spec.failureLimit ?? 1,
  }),
  checks: (_edited, input, facts: Facts) => provisionChecks(input, facts),
  people: (input) => input.people,
});

/** The first of its hosts come from the ready shelf, as many as the plan gives. */
function readyFirst(pools: readonly PoolIntent[], most: number): PoolIntent[] {
  let left = most;
  return pools.map((pool) => ({
    ...pool,
    hosts: pool.hosts.map((host): HostIntent => (left-- > 0 ? { ...host, ready: true } : host)),
  }));
}

function poolOf({ spec, people, profile, chosen }: SizedPool, { site }: Facts): PoolIntent {
  const hosts = chosen?.hosts ?? 0;
  const empty: PoolIntent = {
    role: spec.role,
    ...imageFor(site, spec.image, spec.track),
    size: chosen?.size.key ?? '',
    seats: chosen?.seats ?? 1,
    profile,
    mostSeats: spec.mostSeats,
    arrival: spec.arrival,
    diskGiB: spec.diskGiB,
    ceiling: Math.max(1, Math.ceil(hosts * spec.ceilingFactor)),
    people,
    shareGiB: people * spec.shareGiBPerPerson,
    items: spec.items,
    hosts: [],
  };
  return moreHosts(empty, hosts);
}
