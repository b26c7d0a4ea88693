import type { Comparison, DirectoryGroup } from '../../core/people';
import type { GroupNow, KnownGroup } from '../people';

/** A customer's people and groups as they are known, against a directory as it is now. */
export interface Compared {
  readonly people: Comparison;
  readonly groups: {
    readonly known: readonly KnownGroup[];
    readonly now: readonly GroupNow[];
    /** Ids of ours. */
    readonly gone: readonly string[];
  };
  /** How many are here, and how many of them came from it. */
  readonly before: { readonly here: number; readonly fromIt: number };
  /** What changes from then on is asked for the next time. */
  readonly since: string | undefined;
  /** Ids of the people of whom anything was told; undefined: it was read whole. */
  readonly told: ReadonlySet<string> | undefined;
  /** Everyone's ids in it; undefined: they were not asked for. */
  readonly there: ReadonlySet<string> | undefined;
  /** How many are in it, in scope or not. */
  readonly totals: Totals;
}

export interface Totals {
  readonly people: number;
  readonly groups: number;
}

/** Who is in a group outside the scope is not kept. @param within ids of the groups in scope */
export const groupNow = (group: DirectoryGroup, within: ReadonlySet<string>): GroupNow => ({
  group: within.has(group.id) ? group : { ...group, people: [] },
  inScope: within.has(group.id),
});
