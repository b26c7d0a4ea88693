import { mayMeet, parseRule } from '../naming';
import type { PoolSpec, TemplateSpec } from './spec';

export type { PoolSpec, TemplateSpec } from './spec';
export { STARTERS, starterOn, type Starter } from './starters';

/** What is wrong with a template, each in plain words; empty when it can be used. */
export function checkTemplate(spec: TemplateSpec): string[] {
  const faults: string[] = [];
  const rule = parseRule(spec.naming);
  if (!rule.ok) faults.push(rule.problem);
  if (!isCount(spec.atATime) || !isCount(spec.failureLimit))
    faults.push('hosts at a time and failure limit are whole numbers from 1');
  if (spec.pools.length === 0) faults.push('it has no pool');
  const roles = spec.pools.map((pool) => pool.role.toLowerCase());
  if (new Set(roles).size < roles.length) faults.push('two pools have the same role');
  for (const pool of spec.pools) faults.push(...checkPool(pool).map((fault) => `${pool.role}: ${fault}`));
  return faults;
}

const isCount = (n: number): boolean => Number.isSafeInteger(n) && n >= 1;

/**
 * Two customers of ours whose hosts could come to have one name by a template's rule, in environments that are named alike.
 * @param codes of the customers
 */
export function customersThatMeet(
  spec: Pick<TemplateSpec, 'naming' | 'pools'>,
  codes: readonly string[],
): readonly [string, string] | undefined {
  const rule = parseRule(spec.naming);
  if (!rule.ok) return undefined;
  for (const [index, one] of codes.entries())
    for (const other of codes.slice(index + 1))
      for (const { role } of spec.pools) {
        const inside = (customer: string) => ({
          rule: rule.value,
          context: { customer, environment: 'A', site: 'A', role },
        });
        if (mayMeet(inside(one), inside(other))) return [one, other];
      }
  return undefined;
}

function checkPool(pool: PoolSpec): string[] {
  const faults: string[] = [];
  const isPart = (part: number): boolean => part > 0 && part <= 1;
  if (!/^[a-z][a-z0-9-]{0,23}$/.test(pool.role)) faults.push('a role is small letters, digits and hyphens');
  if (!isPart(pool.concurrency)) faults.push('concurrency is above 0 and at most 1');
  if (!isPart(pool.partOfPeople)) faults.push('the part of the people is above 0 and at most 1');
  if (!(pool.ceilingFactor >= 1 && Number.isFinite(pool.ceilingFactor)))
    faults.push('the ceiling is at least the first hosts');
  if (!isCount(pool.mostSeats)) faults.push('the most seats on a host are a whole number from 1');
  if (!isCount(pool.diskGiB)) faults.push('a disk has whole GiB, from 1');
  if (!(pool.shareGiBPerPerson >= 0 && Number.isFinite(pool.shareGiBPerPerson)))
    faults.push('a share has GiB for each person, from 0');
  if (pool.items.length === 0) faults.push('nothing is published: people would find nothing');
  return faults;
}
