import type { Facts } from '../../facts';
import type { Intent } from '../../intent';
import { nameAt, namesLeft, parseRule } from '../../naming';
import { hostKey } from '../../resources';
import { namesTaken } from '../desk';
import { askedAt, bad, doubtful, good, seen, type PlanCheck } from './shape';

/** Whether there is a legal and free name for every host, also once the pools have grown. */
export const names: PlanCheck = {
  key: 'names',
  title: 'Computer names',
  fix: { of: 'customer', page: 'about', says: 'Naming rule' },
  finds: ({ facts, findings, after }) => {
    const [fault] = findings.nameFaults;
    if (fault !== undefined) return bad(fault, 'Mend the naming rule in the template.');
    if (findings.namesMissing > 0)
      return bad(
        `${after?.naming ?? 'the rule'} runs out: ${findings.namesMissing} hosts would have no name`,
        'Widen the counter in the naming rule.',
      );
    if (findings.firstName === undefined) return undefined;
    const short = namesShort(facts, after);
    if (short > 0)
      return doubtful(
        `${findings.firstName} and on; at their ceiling the pools would be ${short} names short`,
        'Widen the counter in the naming rule before they grow.',
      );
    const there = facts.site.namesThere && [...facts.site.namesThere, ...(facts.site.namesOfNobody ?? [])];
    const free = good(`${findings.firstName} and on, legal and free`);
    return there
      ? seen(free, `held against ${there.length} names in the directory and at the provider`, askedAt(facts))
      : free;
  },
};

/** How many names the rule lacks when every pool has grown to its ceiling. Pools whose names are alike share the counter. */
function namesShort(facts: Facts, after: Intent | null): number {
  const { customer, site } = facts;
  const rule = after && parseRule(after.naming);
  if (!after || rule?.ok !== true) return 0;
  const has = new Set(facts.known.filter(({ wanted }) => wanted).map(({ key }) => key));
  const groups = new Map<string, { left: number; more: number }>();
  for (const pool of after.pools) {
    const context = { customer: customer.code, environment: after.name, site: site.code, role: pool.role };
    const key = nameAt(rule.value, context, 1);
    const group = groups.get(key) ?? {
      left: namesLeft(rule.value, context, namesTaken(facts)),
      more: 0,
    };
    const named = pool.hosts.filter(({ slot }) => has.has(hostKey(pool.role, slot))).length;
    group.more += Math.max(pool.ceiling, pool.hosts.length) - named;
    groups.set(key, group);
  }
  return Math.max(0, ...[...groups.values()].map(({ left, more }) => more - left));
}
