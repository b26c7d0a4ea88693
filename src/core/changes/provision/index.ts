import type { Facts } from '../../facts';
import type { HostIntent, Intent, PoolIntent } from '../../intent';
import { defineChange } from '../../planning';
import { ok, refuse } from '../../result';
import type { TemplateSpec } from '../../templates';
import type { PoolSpec } from '../../terms';
import { granteeOf } from '../common';
import { provisionChecks } from './checks';
import { provisionInput, type ProvisionInput } from './input';
import { givenOf, groupsNamed, poolOf } from './pools';
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
  right: 'build',
  confirm: 'press',
  undo: 'by difference',
  needs: ['template', 'grantees'],
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
    const nobody = strangeGroups(
      { pools: filled.value.pools.map((pool) => ({ ...pool, ...chosenItems(input, pool.role) })) },
      facts,
    );
    if (nobody) return refuse({ [keyOf(input, nobody)]: `is no group of ${facts.customer.code}` });
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

/** A group that something is for, and that is none of the customer's; undefined: there is none. */
export const strangeGroups = ({ pools }: Pick<TemplateSpec, 'pools'>, facts: Facts): string | undefined =>
  groupsNamed(pools).find((id) => granteeOf(facts, id)?.to !== 'group');

const chosenItems = ({ pools = [] }: ProvisionInput, role: string): Partial<Pick<PoolSpec, 'items'>> => {
  const items = pools.find((one) => one.role === role)?.items;
  return items ? { items } : {};
};

/** Beside which field a group was named. */
const keyOf = ({ inputs = [] }: ProvisionInput, id: string): string => {
  const input = inputs.find(({ value }) => value === id);
  return input ? `inputs.${input.key}` : 'pools';
};

/** The first of its hosts come from the ready shelf, as many as the plan gives. */
function readyFirst(pools: readonly PoolIntent[], most: number): PoolIntent[] {
  let left = most;
  return pools.map((pool) => ({
    ...pool,
    hosts: pool.hosts.map((host): HostIntent => (left-- > 0 ? { ...host, ready: true } : host)),
  }));
}
