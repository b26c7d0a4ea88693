import type { DirectoryGroup, KnownPerson } from '../../core/people';
import type { DirectoryReader } from '../directory';

/** So many who seem to have left are asked for by name, before they are believed to be gone. */
export const MOST_CONFIRMED = 25;

/** Ids of those who were in a group and are not any longer. */
export function outOfGroups(before: readonly DirectoryGroup[], told: readonly DirectoryGroup[]): string[] {
  const now = new Map(told.map((one) => [one.id, new Set(one.people)]));
  const out = before.flatMap((one) => {
    const still = now.get(one.id);
    return still ? one.people.filter((id) => !still.has(id)) : [];
  });
  return [...new Set(out)];
}

/**
 * Who is gone is out of their groups too, and of groups a directory tells: each who went out of one is asked for by name.
 * Of more than a few it is not found out so.
 * @param missing so many fewer are in it than those who came let one think
 * @throws OutsideError
 */
export async function goneOf(
  reader: DirectoryReader,
  out: readonly string[],
  known: readonly KnownPerson[],
  missing: number,
): Promise<ReadonlySet<string>> {
  const gone = new Set<string>();
  if (missing <= 0) return gone;
  const here = new Set(known.filter(({ leftAt }) => leftAt === null).map(({ directoryId }) => directoryId));
  const asked = out.filter((id) => here.has(id));
  if (asked.length > MOST_CONFIRMED) return gone;
  for (const id of asked) if (!(await reader.person(id))) gone.add(id);
  return gone;
}
