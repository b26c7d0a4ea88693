import type { Facts, KnownResource, PresentFacts } from '../facts';
import type { Attributes } from '../intent';
import { same, saysOf, type Difference, type ResourceKind, type Wanted } from '../resources';
import type { MachineSize } from '../machines';

/** The key of something that is there and is no resource of ours. */
export const extraKey = (ref: string): string => `extra:${ref}`;

/** How one resource stands: what is wanted of it against what is there. */
export interface Compared {
  readonly key: string;
  readonly kind: string;
  readonly name: string;
  readonly difference: Difference | 'missing' | 'extra';
  readonly says: string;
}

/** What differs, in plain words; sizes are told by what they hold, where they are known. */
export const differenceSays = (one: Compared, sizes: readonly MachineSize[]): string =>
  typeof one.difference === 'string' ? one.says : saysOf(one.difference, sizes);

/** The kinds by their key. @throws RangeError for a kind that is not in the list: then the list is not whole */
export function kindsByKey(kinds: readonly ResourceKind[]): (key: string) => ResourceKind {
  const byKey = new Map(kinds.map((kind) => [kind.key, kind]));
  return (key) => {
    const kind = byKey.get(key);
    if (!kind) throw new RangeError(`${key} is no kind of resource`);
    return kind;
  };
}

/** What is there of each resource. Where several are, the first one is it, and the others are too many. */
export function presentByKey(present: readonly PresentFacts[]): {
  of: (key: string) => PresentFacts | undefined;
  extra: readonly PresentFacts[];
} {
  const found = new Map<string, PresentFacts>();
  const extra: PresentFacts[] = [];
  for (const one of present) {
    if (one.key === null || found.has(one.key)) extra.push(one);
    else found.set(one.key, one);
  }
  return { of: (key) => found.get(key), extra };
}

/**
 * Every difference between what is wanted and what is there, settled or not: the one comparison that drift, the proof
 * of retiring and mending go by. What a run is still at work on is left out, because it is about to change.
 */
export function compare(kinds: readonly ResourceKind[], facts: Pick<Facts, 'known' | 'present'>): Compared[] {
  const kindOf = kindsByKey(kinds);
  const there = presentByKey(facts.present);
  const wanted = facts.known.filter((one) => one.wanted && !one.unsettled);
  const unwanted = new Map(facts.known.filter((one) => !one.wanted).map((one) => [one.key, one]));
  const left = facts.present.filter((one) => {
    const known = one.key === null ? undefined : unwanted.get(one.key);
    return known !== undefined && !known.unsettled;
  });
  return [
    ...wanted.flatMap((one) =>
      differencesOf(kindOf(one.kind), one, there.of(one.key)).filter(
        (found) => one.awaited !== true || isTrouble(found),
      ),
    ),
    ...[...there.extra, ...left].map((one): Compared => ({
      key: extraKey(one.ref),
      kind: one.kind,
      name: one.name,
      difference: 'extra',
      says: 'there, not wanted',
    })),
  ];
}

/** What nobody asked for: not there, or not well. What else is otherwise, a run may be about to mend. */
const isTrouble = ({ difference }: Compared): boolean =>
  typeof difference === 'string' || difference.attribute === 'condition';

function differencesOf(
  kind: ResourceKind,
  one: KnownResource,
  present: PresentFacts | undefined,
): Compared[] {
  const about = { key: one.key, kind: one.kind, name: one.name };
  if (!present) return [{ ...about, difference: 'missing', says: 'wanted, not there' }];
  if (present.condition === 'building') return [];
  return kind
    .differences(one.attributes, present.attributes, present.condition)
    .map((difference) => ({ ...about, difference, says: difference.says }));
}

/** The attributes that two states of one resource differ in. */
export function editedAttributes(before: Attributes, after: Attributes): string[] {
  return Object.keys({ ...before, ...after }).filter(
    (name) => !same(before[name] ?? null, after[name] ?? null),
  );
}

/** Whether something else is wanted of a resource than before. */
export const isEdited = (before: KnownResource, after: Wanted): boolean =>
  before.name !== after.name || editedAttributes(before.attributes, after.attributes).length > 0;
