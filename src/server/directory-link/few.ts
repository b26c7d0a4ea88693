import { comparePeople, groupsInScope, peopleInScope } from '../../core/people';
import type { CustomerScope } from '../access';
import type { Connection } from '../db';
import type { DirectoryReader } from '../directory';
import { countHere, knownAmong, knownGroups } from '../people';
import { groupNow, type Compared } from './compared';
import { goneOf, outOfGroups } from './gone';
import type { Told } from './reading';
import { cameSince, scopeOf, type Stored } from './stored';

/** More of whom it told are compared with everyone. */
const MOST = 500;

/**
 * Compares only those of whom a directory told something, without looking at the many thousands who stand beside them.
 * Undefined: that is not enough, for somebody is gone and nobody tells who, or the scope goes by groups.
 * @throws OutsideError
 */
export async function comparedFew(
  db: Connection,
  scope: CustomerScope,
  row: Stored,
  reader: DirectoryReader,
  { people, groups, since, totals }: Told,
): Promise<Compared | undefined> {
  const chosen = scopeOf(row);
  if (!totals || people.length + groups.length > MOST || chosen.groups.length > 0) return undefined;
  const groupsBefore = await knownGroups(
    db,
    scope,
    groups.map(({ id }) => id),
  );
  if (totals.groups !== row.total_groups + groups.length - groupsBefore.length) return undefined;
  const told = new Set(people.map(({ id }) => id));
  const out = outOfGroups(groupsBefore, groups).filter((id) => !told.has(id));
  if (out.length > MOST) return undefined;
  const known = await knownAmong(
    db,
    scope,
    [...told, ...out],
    people.map(({ account }) => account),
  );
  // Only who came and who changed is told: that somebody is gone shows in how many there are.
  const missing = row.total_people + cameSince(row, people, known) - totals.people;
  // Whoever is back may have been gone, or only switched off there: how many there are does not tell then who is gone.
  if (known.some(({ directoryId, leftAt }) => leftAt !== null && told.has(directoryId ?? '')))
    return undefined;
  const gone = await goneOf(reader, out, known, missing);
  if (gone.size !== missing) return undefined;
  // Whoever has an account that one of them has now is there as ever.
  const others = known.flatMap((one) =>
    one.directoryId === null || one.leftAt !== null || told.has(one.directoryId) || gone.has(one.directoryId)
      ? []
      : [{ ...one, id: one.directoryId, disabled: false }],
  );
  const { inScope } = peopleInScope({ people: [...people, ...others], groups: [] }, chosen);
  const within = groupsInScope(groups, chosen);
  return {
    people: comparePeople(known, inScope, told),
    groups: {
      known: groupsBefore,
      now: groups.map((group) => groupNow(group, within)),
      gone: [],
    },
    before: await countHere(db, scope),
    since,
    told,
    there: undefined,
    totals,
  };
}
