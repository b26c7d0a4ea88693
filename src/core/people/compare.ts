import { readPeople, PEOPLE_COLUMNS } from './file-rows';
import type { DirectoryPerson, PersonRow } from './row';

/** Somebody who is known here, or was. */
export interface KnownPerson extends PersonRow {
  readonly id: string;
  /** The directory's name for them; null: they came from a file. */
  readonly directoryId: string | null;
  readonly unit: string;
  /** When they left; null: they are here. */
  readonly leftAt: number | null;
}

/** Somebody known, and as the directory has them now. */
export interface Change {
  readonly known: KnownPerson;
  readonly now: DirectoryPerson;
}

/** Somebody in the directory who cannot be taken in. */
export interface Unfit {
  readonly id: string;
  readonly account: string;
  readonly reason: string;
}

export interface Comparison {
  readonly added: readonly DirectoryPerson[];
  /** Another name, mail, unit or account; also those from a file whom the directory turns out to know. */
  readonly changed: readonly Change[];
  /** Left once, and back under the same id. */
  readonly returned: readonly Change[];
  /** Gone from the directory or its scope, or switched off there. */
  readonly left: readonly KnownPerson[];
  readonly same: number;
  /** Who cannot be taken in, each with the reason. */
  readonly unfit: readonly Unfit[];
}

/** Of those who are here, so large a part may leave at once without anybody being asked; fewer than `FEW` always may. */
export const MOST_LEAVING = 0.1;
const FEW = 3;

/**
 * What has to change here so that the people are those of the directory. Somebody is the same person as long as their id in
 * it is; who came from a file and has the account of somebody in it is that person. An account given to somebody else after
 * its holder left is somebody else's.
 * @param inScope who comes, none of them switched off
 * @param told by their ids in the directory, of whom it said anything; the others are here as it has them. Left out: of all
 */
export function comparePeople(
  known: readonly KnownPerson[],
  inScope: readonly DirectoryPerson[],
  told?: ReadonlySet<string>,
): Comparison {
  const byDirectoryId = new Map(
    known.flatMap((one) => (one.directoryId === null ? [] : [[one.directoryId, one]])),
  );
  const { asKnown, looked } = apart(inScope, byDirectoryId, told);
  const { good, bad } = readPeople(
    PEOPLE_COLUMNS,
    looked.map((one, n) => ({ line: n + 1, cells: PEOPLE_COLUMNS.map((column) => one[column]) })),
  );
  const rows = good.flatMap(({ line, ...row }) => {
    const one = looked[line - 1];
    return one ? [{ ...one, ...row }] : [];
  });
  const unread = bad.flatMap(({ line, reason }) => {
    const one = looked[line - 1];
    return one ? [{ id: one.id, account: one.account, reason }] : [];
  });
  // Who cannot be taken in keeps the account that they have here.
  const kept = (id: string): string[] => {
    const known = byDirectoryId.get(id);
    return known && known.leftAt === null ? [known.account] : [];
  };
  const held = new Set([...asKnown.map(({ account }) => account), ...unread.flatMap(({ id }) => kept(id))]);
  for (;;) {
    const pass = takeIn(known, byDirectoryId, rows, held);
    const more = pass.unfit.flatMap(({ id }) => kept(id)).filter((account) => !held.has(account));
    if (more.length === 0) return compared(known, pass, asKnown, unread);
    for (const account of more) held.add(account);
  }
}

type TakenIn = Pick<Comparison, 'added' | 'changed' | 'returned' | 'same' | 'unfit'> & {
  readonly met: ReadonlySet<string>;
};

/** What becomes of those who can be read, where some accounts are others' and stay so. */
function takeIn(
  known: readonly KnownPerson[],
  byDirectoryId: ReadonlyMap<string, KnownPerson>,
  rows: readonly DirectoryPerson[],
  held: ReadonlySet<string>,
): TakenIn {
  const fromFile = new Map(
    known.filter((one) => one.directoryId === null && one.leftAt === null).map((one) => [one.account, one]),
  );
  const met = new Set<string>();
  const added: DirectoryPerson[] = [];
  const changed: Change[] = [];
  const returned: Change[] = [];
  const unfit: Unfit[] = [];
  const refuse = ({ id, account }: DirectoryPerson, reason: string): number =>
    unfit.push({ id, account, reason });
  let same = 0;
  for (const now of rows) {
    const holder = fromFile.get(now.account);
    const before = byDirectoryId.get(now.id) ?? holder;
    if (before) met.add(before.id);
    if (held.has(now.account)) refuse(now, 'is the account of somebody else');
    else if (!before) added.push(now);
    else if (holder && holder !== before) refuse(now, 'is the account of somebody who came from a file');
    else if (before.leftAt !== null) returned.push({ known: before, now });
    else if (isSame(before, now)) same += 1;
    else changed.push({ known: before, now });
  }
  return { added, changed, returned, same, unfit, met };
}

function compared(
  known: readonly KnownPerson[],
  { met, same, unfit, ...pass }: TakenIn,
  asKnown: readonly KnownPerson[],
  unread: readonly Unfit[],
): Comparison {
  // Who is in the directory and cannot be read well has not left it.
  const there = new Set([...unread, ...unfit].map(({ id }) => id));
  const isMet = new Set([...met, ...asKnown.map(({ id }) => id)]);
  const left = known.filter(
    ({ id, directoryId, leftAt }) =>
      leftAt === null && directoryId !== null && !isMet.has(id) && !there.has(directoryId),
  );
  return { ...pass, left, same: same + asKnown.length, unfit: [...unread, ...unfit] };
}

/** Those of whom nothing was told, as they are known, and all others. Of many thousands few are looked at then. */
function apart(
  inScope: readonly DirectoryPerson[],
  byDirectoryId: ReadonlyMap<string, KnownPerson>,
  told: ReadonlySet<string> | undefined,
): { readonly asKnown: readonly KnownPerson[]; readonly looked: readonly DirectoryPerson[] } {
  if (!told) return { asKnown: [], looked: inScope };
  const asKnown: KnownPerson[] = [];
  const looked: DirectoryPerson[] = [];
  for (const one of inScope) {
    const known = told.has(one.id) ? undefined : byDirectoryId.get(one.id);
    if (known && known.leftAt === null) asKnown.push(known);
    else looked.push(one);
  }
  return { asKnown, looked };
}

const isSame = (known: KnownPerson, now: DirectoryPerson): boolean =>
  known.directoryId === now.id &&
  known.unit === now.unit &&
  PEOPLE_COLUMNS.every((column) => known[column] === now[column]);

/**
 * Whether so many leave at once that somebody should look first: that is more often a fault or a narrower scope than a
 * farewell.
 * @example
 * asksFirst({ leaving: 11, here: 100 }) // true
 * asksFirst({ leaving: 2, here: 3 }) // false
 */
export const asksFirst = ({ leaving, here }: { readonly leaving: number; readonly here: number }): boolean =>
  leaving >= FEW && leaving > here * MOST_LEAVING;
