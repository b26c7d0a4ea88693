import type { GrantsFile, Group, Offered } from '../../contract';
import { dayNamed } from '../../core/calendar';

/** Somebody whom items are granted to: everyone, a group or a person. */
export type Target = Pick<Offered['grants'][number], 'to' | 'id' | 'name' | 'unit' | 'inScope' | 'people'>;

/** One item for one of them, and whether it is theirs now. */
export interface Cell {
  readonly pool: string;
  readonly item: string;
  readonly target: Target;
  readonly has: boolean;
  /** When it ends, where a file says so; left out: as all that is chosen. */
  readonly until?: number | null;
  /** It is granted, and shall be granted still, with another end. */
  readonly isAgain?: boolean;
}

export interface Grant {
  readonly pool: string;
  readonly item: string;
  readonly to: Target['to'];
  readonly id: string;
  readonly until: number | null;
}

export interface Moves {
  readonly add: readonly Grant[];
  readonly take: readonly Grant[];
}

export const keyOf = ({ pool, item, target }: Pick<Cell, 'pool' | 'item' | 'target'>): string =>
  `${pool} ${item} ${target.to} ${target.id}`;

/** Those to whom anything is granted, each once, and everyone. */
export function targetsOf(offered: readonly Offered[]): Target[] {
  const found = new Map<string, Target>();
  for (const { grants } of offered) for (const one of grants) found.set(`${one.to} ${one.id}`, one);
  const everyone: Target = found.get('everyone ') ?? {
    to: 'everyone',
    id: '',
    name: 'All people',
    unit: '',
    inScope: true,
    people: 0,
  };
  return [everyone, ...[...found.values()].filter(({ to }) => to !== 'everyone')];
}

type FromFile = GrantsFile['add'][number];

export const targetOf = ({ to, id, name, unit, inScope, people }: FromFile): Target => ({
  to,
  id,
  name,
  unit,
  inScope,
  people,
});

/** A grant of a file as a cell; one that stands with another end is granted again. */
export function cellOf(one: FromFile, offered: readonly Offered[]): Cell {
  const { pool, item, until } = one;
  const has = offered.some(
    (each) =>
      each.item.pool === pool &&
      each.item.name === item &&
      each.grants.some(({ to, id }) => to === one.to && id === one.id),
  );
  return { pool, item, target: targetOf(one), has, until, ...(has ? { isAgain: true } : {}) };
}

const ORDER: readonly Target['to'][] = ['everyone', 'group', 'person'];

/** Everyone first, then groups, the largest first, then people by name. */
export const byKind = (a: Target, b: Target): number =>
  ORDER.indexOf(a.to) - ORDER.indexOf(b.to) || b.people - a.people || a.name.localeCompare(b.name, 'en');

/** So many groups have a row though nothing is granted to them. */
const MOST_GROUPS = 9;

export const largest = (groups: readonly Group[]): Target[] =>
  [...groups]
    .filter(({ inScope, people }) => inScope && people > 0)
    .sort((a, b) => b.people - a.people)
    .slice(0, MOST_GROUPS)
    .map(({ id, name, unit, people }) => ({ to: 'group', id, name, unit, people, inScope: true }));

/**
 * What is to be granted and what taken.
 * @param until the last day of what is granted, as `2026-12-31`; empty: it does not end
 */
export function movesOf(cells: readonly Cell[], until: string, zone: string): Moves {
  const ends = dayNamed(until, zone)?.to ?? null;
  const grantOf = ({ pool, item, target }: Cell, end: number | null): Grant => ({
    pool,
    item,
    to: target.to,
    id: target.id,
    until: end,
  });
  return {
    add: cells
      .filter(({ has, isAgain }) => !has || isAgain)
      .map((cell) => grantOf(cell, cell.until === undefined ? ends : cell.until)),
    take: cells.filter(({ has, isAgain }) => has && !isAgain).map((cell) => grantOf(cell, null)),
  };
}
