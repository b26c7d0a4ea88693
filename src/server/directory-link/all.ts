import {
  comparePeople,
  groupsInScope,
  peopleInScope,
  type Comparison,
  type DirectoryGroup,
  type DirectoryPerson,
  type DirectoryRead,
  type DirectoryScope,
  type KnownPerson,
} from '../../core/people';
import type { CustomerScope } from '../access';
import type { App } from '../app';
import type { DirectoryReader } from '../directory';
import { knownGroups, knownPeople, type KnownGroup } from '../people';
import { groupNow, type Compared } from './compared';
import { goneOf, MOST_CONFIRMED, outOfGroups } from './gone';
import { readIds, readKeeping, type Told } from './reading';
import { cameSince, scopeOf, type Stored } from './stored';

/** So many whom a changed group named are asked for one by one; more, and all of it is read. */
const MOST_ASKED = 200;

/** Everyone known, and every group. */
interface Known {
  readonly people: readonly KnownPerson[];
  readonly groups: readonly KnownGroup[];
}

/** What a directory says now, whichever way that was found out. */
interface Now extends DirectoryRead, Pick<Compared, 'since' | 'told' | 'there' | 'totals'> {}

/**
 * Compares everyone who is known with everyone in a directory.
 * @param told what changed in it since it was read; undefined: all of it is read
 * @throws OutsideError
 */
export async function comparedAll(
  app: App,
  scope: CustomerScope,
  row: Stored,
  reader: DirectoryReader,
  told: Told | undefined,
): Promise<Compared> {
  const chosen = scopeOf(row);
  const [people, groups] = await Promise.all([knownPeople(app.db, scope), knownGroups(app.db, scope)]);
  const now =
    (told && (await withChanges(reader, row, { people, groups }, told))) ??
    (await readAll(app, scope, reader));
  const { inScope } = peopleInScope(now, chosen);
  const within = groupsInScope(now.groups, chosen);
  const there = new Set(now.groups.map(({ id }) => id));
  const here = people.filter((one) => one.leftAt === null);
  return {
    people: await confirmed(comparePeople(people, inScope, now.told), chosen, now, reader),
    groups: {
      known: groups,
      now: now.groups.map((group) => groupNow(group, within)),
      gone: groups.filter(({ id }) => !there.has(id)).map(({ ours }) => ours),
    },
    before: { here: here.length, fromIt: here.filter((one) => one.directoryId !== null).length },
    since: now.since,
    told: now.told,
    there: now.there,
    totals: now.totals,
  };
}

async function readAll(app: App, scope: CustomerScope, reader: DirectoryReader): Promise<Now> {
  const read = await readKeeping(app, scope, reader);
  const totals = { people: read.people.length, groups: read.groups.length };
  return { ...read, told: undefined, there: undefined, totals };
}

/** What is known with what changed since; undefined: that cannot be found out without reading all of it. */
async function withChanges(
  reader: DirectoryReader,
  row: Stored,
  known: Known,
  changes: Told,
): Promise<Now | undefined> {
  const people = new Map<string, DirectoryPerson>();
  for (const one of known.people)
    if (one.directoryId !== null && one.leftAt === null)
      people.set(one.directoryId, { ...one, id: one.directoryId, disabled: false });
  for (const one of changes.people) people.set(one.id, one);
  const groups = new Map<string, DirectoryGroup>(known.groups.map((one) => [one.id, one]));
  for (const one of changes.groups) groups.set(one.id, one);
  const { totals } = changes;
  const came = cameSince(row, changes.people, known.people);
  const newGroups = changes.groups.filter(({ id }) => !known.groups.some((one) => one.id === id)).length;
  // Only who came and who changed is told: that somebody is gone shows in how many there are.
  const missing = totals && row.total_people + came - totals.people;
  const told = new Set(changes.people.map(({ id }) => id));
  const toldGroups = new Set(changes.groups.map(({ id }) => id));
  const out = outOfGroups(known.groups, changes.groups).filter((id) => !told.has(id));
  const gone = await goneOf(reader, out, known.people, missing ?? 0);
  const there = gone.size === missing ? undefined : await readIds(reader, 'people');
  for (const id of gone) people.delete(id);
  const groupsThere =
    totals?.groups === row.total_groups + newGroups ? undefined : await readIds(reader, 'groups');
  if (there) for (const id of notIn(there, people.keys())) people.delete(id);
  if (groupsThere) for (const id of notIn(groupsThere, groups.keys())) groups.delete(id);
  // Who is in a group that was outside until now was never read: that comes with all of it.
  const within = groupsInScope([...groups.values()], scopeOf(row));
  if (known.groups.some(({ id, inScope }) => !inScope && within.has(id) && !toldGroups.has(id)))
    return undefined;
  // A group that was changed may name somebody who was outside before, and was not changed themselves.
  const named = new Set(changes.groups.flatMap((one) => one.people).filter((id) => !people.has(id)));
  if (named.size > MOST_ASKED) return undefined;
  for (const id of named) {
    const one = await reader.person(id);
    if (one) people.set(id, one);
  }
  return {
    people: [...people.values()],
    groups: [...groups.values()],
    since: changes.since,
    told: new Set([...told, ...named]),
    there,
    totals: {
      people: there?.size ?? totals?.people ?? 0,
      groups: groupsThere?.size ?? totals?.groups ?? 0,
    },
  };
}

const notIn = (there: ReadonlySet<string>, ids: Iterable<string>): string[] =>
  [...ids].filter((id) => !there.has(id));

/** Nobody is gone for not standing in a list: the directory is asked for those who are missing in it. */
async function confirmed(
  comparison: Comparison,
  scope: DirectoryScope,
  now: Now,
  reader: DirectoryReader,
): Promise<Comparison> {
  const listed = new Set(now.people.map(({ id }) => id));
  const unlisted = comparison.left.filter(
    ({ directoryId }) => directoryId !== null && !listed.has(directoryId),
  );
  if (unlisted.length === 0 || unlisted.length > MOST_CONFIRMED) return comparison;
  const still = new Set<string>();
  for (const one of unlisted) {
    const person = await reader.person(one.directoryId ?? '');
    if (!person) continue;
    const read = { people: [person], groups: now.groups };
    if (peopleInScope(read, scope).inScope.length > 0) still.add(one.id);
  }
  return { ...comparison, left: comparison.left.filter(({ id }) => !still.has(id)) };
}
