/** What a group of an identity service gives whoever is in it here. */
export interface GroupRule<Role extends string = string> {
  readonly group: string;
  readonly role: Role;
  /** Codes of the customers reached; null: every customer. */
  readonly customers: readonly string[] | null;
}

export interface Standing<Role extends string = string> {
  readonly role: Role;
  readonly customers: readonly string[] | null;
}

/**
 * What someone is here by the groups that they are in: the first rule that fits gives the role, and all rules of that role
 * that fit give their reach together. Groups bear the same name only when they are written the same.
 * @returns undefined when no group gives them anything
 * @example
 * standingBy(['desk'], [{ group: 'desk', role: 'engineer', customers: ['SVG'] }]) // { role: 'engineer', customers: ['SVG'] }
 */
export function standingBy<Role extends string>(
  groups: readonly string[],
  rules: readonly GroupRule<Role>[],
): Standing<Role> | undefined {
  const own = new Set(groups);
  const fitting = rules.filter((rule) => own.has(rule.group));
  const [first] = fitting;
  if (!first) return undefined;
  const reaches = fitting.filter((rule) => rule.role === first.role).map((rule) => rule.customers);
  const isEvery = reaches.some((one) => one === null);
  return {
    role: first.role,
    customers: isEvery ? null : [...new Set(reaches.flatMap((one) => one ?? []))].sort(),
  };
}

export { can, narrowed, RIGHTS, RIGHTS_OF, ROLES, rolesWith, type Right, type Role } from './rights';
