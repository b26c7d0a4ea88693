import type { Facts } from '../../facts';
import type { HostIntent, Intent, PoolIntent } from '../../intent';
import { defineChange } from '../../planning';
import { ok, refuse } from '../../result';
import { provisionChecks } from './checks';
import { provisionInput, type ProvisionInput } from './input';
import { givenOf, poolOf } from './pools';
import { filledTemplate, sizePools } from './sizes';

export { filledTemplate, sizePool, sizePools, type SizedPool } from './sizes';
export { givenOf, poolOf } from './pools';
export { filledInputs, type PoolChoice, type ProvisionInput } from './input';

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
    const filled = filledTemplate(input, facts);
    if (!template || !filled.ok)
      return refuse(
        filled.ok
          ? { template: 'is not known' }
          : Object.fromEntries(
              Object.entries(filled.problem).map(([key, says]) => [
                key === 'template' ? key : `inputs.${key}`,
                says,
              ]),
            ),
      );
    const { naming, tags, pools } = filled.value;
    const roles = pools.map(({ role }) => role);
    const strange = input.pools?.find(({ role }) => !roles.includes(role));
    if (strange) return refuse({ pools: `${template.code} has no pool ${strange.role}` });
    const shared = filled.value.pools.find(({ role, kind }) => {
      const most = input.pools?.find((one) => one.role === role)?.mostSeats ?? 1;
      return kind === 'personal' && most !== 1;
    });
    if (shared)
      return refuse({ pools: `everyone in ${shared.role} has a host of their own: one seat on each` });
    const made = (asked: ProvisionInput): PoolIntent[] =>
      sizePools(asked, facts).map((pool) => poolOf(pool, facts));
    const rule = facts.customer.naming === '' ? naming : facts.customer.naming;
    return ok({
      name: input.environment,
      site: input.site,
      template: {
        code: template.code,
        revision: template.revision,
        inputs: template.document.inputs.map(({ key, usual }) => ({
          key,
          value: input.inputs?.find((one) => one.key === key)?.value ?? usual,
        })),
        // What is chosen otherwise than the template has it deviates from the first.
        gave: { naming: rule, tags, pools: made({ ...input, pools: [] }).map(givenOf) },
      },
      naming: rule,
      tags,
      people: input.people,
      pools: readyFirst(made(input), facts.customer.plan.readyHosts),
      more: {},
    } satisfies Intent);
  },
  policy: (_input, facts) => ({
    atATime: facts.template?.document.atATime ?? 1,
    failureLimit: facts.template?.document.failureLimit ?? 1,
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
