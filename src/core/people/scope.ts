import { reached } from './closure';
import type { DirectoryGroup, DirectoryPerson, DirectoryRead } from './row';

/**
 * Which part of a directory a customer's people come from: these units with all below them, and these groups, by id, with
 * all groups in them. None of either: all.
 */
export interface DirectoryScope {
  readonly units: readonly string[];
  readonly groups: readonly string[];
}

/** So many stand in a unit and below it. */
export interface Counted {
  readonly name: string;
  readonly people: number;
}

export interface CountedGroup extends Counted {
  readonly id: string;
  readonly unit: string;
}

export const isEverything = ({ units, groups }: DirectoryScope): boolean =>
  units.length === 0 && groups.length === 0;

const isWithin = (unit: string, top: string): boolean => unit === top || unit.startsWith(`${top}/`);

/** Groups whose members are in scope for being in them. */
function chosenGroups(groups: readonly DirectoryGroup[], scope: DirectoryScope): ReadonlySet<string> {
  const byId = new Map(groups.map((one) => [one.id, one]));
  const chosen = scope.groups.filter((id) => byId.has(id));
  return new Set(reached(chosen, (id) => byId.get(id)?.groups ?? []).keys());
}

/**
 * Ids of the groups that are read with a scope: those that stand in its units, and those that are chosen with all in them.
 * Who is in another group is not known here.
 */
export function groupsInScope(groups: readonly DirectoryGroup[], scope: DirectoryScope): ReadonlySet<string> {
  if (isEverything(scope)) return new Set(groups.map(({ id }) => id));
  const placed = groups.filter(({ unit }) => scope.units.some((top) => isWithin(unit, top)));
  return new Set([...placed.map(({ id }) => id), ...chosenGroups(groups, scope)]);
}

/** Who of a directory comes with a scope: those who are switched off stay out, and are counted apart. */
export function peopleInScope(
  { people, groups }: DirectoryRead,
  scope: DirectoryScope,
): { readonly inScope: readonly DirectoryPerson[]; readonly disabled: number; readonly outside: number } {
  const within = chosenGroups(groups, scope);
  const members = new Set(groups.filter(({ id }) => within.has(id)).flatMap((one) => one.people));
  const chosen = people.filter(
    ({ id, unit }) =>
      isEverything(scope) || scope.units.some((top) => isWithin(unit, top)) || members.has(id),
  );
  const inScope = chosen.filter((one) => !one.disabled);
  return { inScope, disabled: chosen.length - inScope.length, outside: people.length - chosen.length };
}

/**
 * The units and groups of a directory with how many come with each: a unit with all below it, a group with all groups in
 * it. Those switched off do not count.
 */
export function countDirectory({ people, groups }: DirectoryRead): {
  units: Counted[];
  groups: CountedGroup[];
} {
  const here = people.filter(({ disabled }) => !disabled);
  const units = new Map<string, number>();
  const count = (unit: string, many: number): void => {
    const parts = unit === '' ? [] : unit.split('/');
    parts.forEach((_part, n) => {
      const name = parts.slice(0, n + 1).join('/');
      units.set(name, (units.get(name) ?? 0) + many);
    });
  };
  for (const { unit } of here) count(unit, 1);
  // A unit in which only groups stand is there too, and may be what is read.
  for (const { unit } of groups) count(unit, 0);
  const ids = new Set(here.map(({ id }) => id));
  const byId = new Map(groups.map((one) => [one.id, one]));
  const countOf = (group: DirectoryGroup): number => {
    const all = [...reached([group.id], (id) => byId.get(id)?.groups ?? []).keys()];
    return new Set(all.flatMap((id) => byId.get(id)?.people.filter((one) => ids.has(one)) ?? [])).size;
  };
  const byName = (a: { readonly name: string }, b: { readonly name: string }): number =>
    a.name.localeCompare(b.name, 'en', { numeric: true });
  return {
    units: [...units].map(([name, count]) => ({ name, people: count })).sort(byName),
    groups: groups
      .map((one) => ({ id: one.id, name: one.name, unit: one.unit, people: countOf(one) }))
      .sort(byName),
  };
}
