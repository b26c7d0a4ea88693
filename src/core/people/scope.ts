import type { PersonRow } from './row';

/** Somebody as a customer's directory knows them. */
export interface DirectoryPerson extends PersonRow {
  /** Where they stand in it, from the top: `Clinics/North`. */
  readonly unit: string;
  readonly groups: readonly string[];
  /** Switched off there: nobody comes in under it. */
  readonly disabled: boolean;
}

/** Which part of a directory a customer's people come from: these units with all below them, and these groups. None of either: all. */
export interface DirectoryScope {
  readonly units: readonly string[];
  readonly groups: readonly string[];
}

/** So many stand in a unit and below it, or in a group. */
export interface Counted {
  readonly name: string;
  readonly people: number;
}

const isWithin = (unit: string, top: string): boolean => unit === top || unit.startsWith(`${top}/`);

const isInScope = ({ unit, groups }: DirectoryPerson, scope: DirectoryScope): boolean =>
  (scope.units.length === 0 && scope.groups.length === 0) ||
  scope.units.some((top) => isWithin(unit, top)) ||
  scope.groups.some((group) => groups.includes(group));

/** Who of a directory comes with a scope: those who are switched off stay out, and are counted apart. */
export function peopleInScope(
  people: readonly DirectoryPerson[],
  scope: DirectoryScope,
): { readonly inScope: readonly DirectoryPerson[]; readonly disabled: number; readonly outside: number } {
  const chosen = people.filter((one) => isInScope(one, scope));
  const inScope = chosen.filter((one) => !one.disabled);
  return { inScope, disabled: chosen.length - inScope.length, outside: people.length - chosen.length };
}

/** The units and groups of a directory with how many stand in each; a unit counts all below it. Those switched off do not count. */
export function countDirectory(people: readonly DirectoryPerson[]): { units: Counted[]; groups: Counted[] } {
  const units = new Map<string, number>();
  const groups = new Map<string, number>();
  const add = (counts: Map<string, number>, name: string): void =>
    void counts.set(name, (counts.get(name) ?? 0) + 1);
  for (const one of people.filter(({ disabled }) => !disabled)) {
    const parts = one.unit === '' ? [] : one.unit.split('/');
    parts.forEach((_part, n) => add(units, parts.slice(0, n + 1).join('/')));
    for (const group of new Set(one.groups)) add(groups, group);
  }
  const listed = (counts: Map<string, number>): Counted[] =>
    [...counts]
      .map(([name, count]) => ({ name, people: count }))
      .sort((a, b) => a.name.localeCompare(b.name, 'en'));
  return { units: listed(units), groups: listed(groups) };
}
