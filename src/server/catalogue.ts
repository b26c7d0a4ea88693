import { CHANGES } from '../core/changes';
import { kindsByKey, type Change } from '../core/planning';
import { RESOURCE_KINDS, type ResourceKind } from '../core/resources';
import { readPlainly, RESOURCE_WORK, type ResourceWork } from './resources';

/** The rows that everything derives from: kinds of resource, how they are worked on, and the changes that people ask for. */
export interface Catalogue {
  readonly kinds: readonly ResourceKind[];
  readonly changes: readonly Change[];
  /** @throws RangeError for a kind that is not in the list */
  kind(key: string): ResourceKind;
  /** How a kind is worked on. What is there of an unknown kind is read as it is. */
  work(kind: string): ResourceWork;
}

/** What stands in the lists, and what is added to them from outside. */
export function makeCatalogue(
  more: {
    readonly kinds?: readonly ResourceKind[];
    readonly changes?: readonly Change[];
    readonly work?: Readonly<Record<string, ResourceWork>>;
  } = {},
): Catalogue {
  const kinds = [...RESOURCE_KINDS, ...(more.kinds ?? [])];
  const work = { ...RESOURCE_WORK, ...more.work };
  return {
    kinds,
    changes: [...CHANGES, ...(more.changes ?? [])],
    kind: kindsByKey(kinds),
    work: (kind) => work[kind] ?? { read: readPlainly, actions: {} },
  };
}
