import type { Facts, HostFacts, KnownResource, PresentFacts, RetainedResource } from '../facts';
import { isOfImage, type Attributes } from '../intent';
import {
  same,
  type Difference,
  type ResourceKind,
  type Retaining,
  type Task,
  type Wanted,
} from '../resources';
import type { Instant } from '../calendar';
import type { Asked, Chosen } from './change';
import { editedAttributes, extraKey, isEdited, kindsByKey, presentByKey } from './compare';

/** A resource with what is to be done to it. */
export interface PlannedTask {
  readonly key: string;
  readonly kind: ResourceKind;
  readonly name: string;
  readonly task: Task<Attributes> | Retaining;
  /** Keys that must stand before it, or for what goes, that it stands on. */
  readonly needs: readonly string[];
  /** What it stood on before and no longer does: that goes after it. */
  readonly stoodOn?: readonly string[];
  /** For what matches nothing we know: its name at the provider. */
  readonly ref?: string;
  /** What it is, where its key no longer tells: it was retained. */
  readonly retained?: RetainedResource;
}

export interface Planned {
  readonly tasks: readonly PlannedTask[];
  /** Names of what was to be changed and is not there: nothing is done to it. */
  readonly absent: readonly string[];
}

/** Until when a resource that goes is retained; undefined: it is removed. */
export type RetainedUntil = (one: KnownResource) => Instant | undefined;

/** What is compared: everything, or what the edit touches and what was chosen; and what is asked for besides. */
interface Scope {
  readonly whole: boolean;
  readonly chosen: readonly Chosen[];
  readonly asks: readonly Asked[];
  /** What of that which goes is retained; left out: nothing. */
  readonly retains?: RetainedUntil | undefined;
}

/**
 * What is to be done so that what is there becomes what is wanted: for what the edit touches and what was chosen, or
 * for everything.
 */
export function decide(
  kinds: readonly ResourceKind[],
  facts: Facts,
  after: readonly Wanted[],
  asked: Scope,
): Planned {
  const kindOf = kindsByKey(kinds);
  const { tasks, absent } = changes(kindOf, facts, after, asked);
  return { tasks: [...tasks, ...removals(kindOf, facts, after, asked)], absent };
}

/** What is to be done to what stays or comes. */
export function changes(
  kindOf: (key: string) => ResourceKind,
  facts: Pick<HostFacts, 'known' | 'present'>,
  after: readonly Wanted[],
  asked: Scope,
): Planned {
  const there = presentByKey(facts.present);
  const known = new Map(facts.known.map((one) => [one.key, one]));
  const absent: string[] = [];
  const tasks = after.flatMap((wanted): PlannedTask[] => {
    const kind = kindOf(wanted.kind);
    const before = known.get(wanted.key);
    const present = there.of(wanted.key);
    const asks = asked.asks.flatMap(({ key, ask }) => (key === wanted.key ? (kind.asked?.(ask) ?? []) : []));
    const outcome = taskFor(kind, wanted, before, present, attributesAsked(before, wanted, asked), asks);
    if (outcome === 'absent') {
      absent.push(wanted.name);
      return [];
    }
    return outcome === undefined
      ? []
      : [
          {
            key: wanted.key,
            kind,
            name: wanted.name,
            task: outcome,
            needs: wanted.needs,
            stoodOn: (before?.needs ?? []).filter((key) => !wanted.needs.includes(key)),
          },
        ];
  });
  return { tasks, absent };
}

/** Which attributes are compared: all of them, those named, or none. */
function attributesAsked(
  before: KnownResource | undefined,
  wanted: Wanted,
  asked: Scope,
): 'all' | readonly string[] {
  if (asked.whole || before?.wanted !== true) return 'all';
  const chosen = asked.chosen.filter((one) => one.key === wanted.key);
  if (chosen.some((one) => one.attribute === undefined)) return 'all';
  return [
    ...chosen.flatMap((one) => one.attribute ?? []),
    ...editedAttributes(before.attributes, wanted.attributes),
  ];
}

function taskFor(
  kind: ResourceKind,
  wanted: Wanted,
  before: KnownResource | undefined,
  present: PresentFacts | undefined,
  asked: 'all' | readonly string[],
  asks: readonly Difference[],
): Task<Attributes> | 'absent' | undefined {
  const people = before?.people ?? 0;
  if (asked !== 'all' && asked.length + asks.length === 0) return undefined;
  // What a run is at work on may be there by the time this one comes to it: each step looks before it does anything.
  const settled = before?.unsettled !== true;
  if (!present || present.condition === 'building') {
    if (asked === 'all') return { do: 'make', wanted, people };
    if (settled || !before) return 'absent';
    const past = kind.differences(wanted.attributes, before.attributes, 'well');
    return changeTo(wanted, past, asked, asks, people);
  }
  const found = kind.differences(wanted.attributes, present.attributes, present.condition);
  const past = settled || !before ? [] : kind.differences(wanted.attributes, before.attributes, 'well');
  const all = [...found, ...past.filter((one) => !found.some((other) => other.attribute === one.attribute))];
  if (asked === 'all' && !settled && before?.wanted !== true) return { do: 'make', wanted, people };
  return changeTo(wanted, all, asked, asks, people);
}

function changeTo(
  wanted: Wanted,
  differences: readonly Difference[],
  asked: 'all' | readonly string[],
  asks: readonly Difference[],
  people: number,
): Task<Attributes> | undefined {
  const found = asked === 'all' ? differences : differences.filter((one) => asked.includes(one.attribute));
  const own = [...asks, ...found];
  if (own.length === 0) return undefined;
  const replaces = own.some((one) => one.how === 'by replacement');
  return { do: replaces ? 'replace' : 'change', wanted, differences: own, people };
}

const isImage = ({ environment }: Facts): boolean =>
  environment !== undefined && isOfImage(environment.intent);

/** What goes: what is not wanted any more, and what was chosen or found beyond it. */
function removals(
  kindOf: (key: string) => ResourceKind,
  facts: Facts,
  after: readonly Wanted[],
  asked: Scope,
): PlannedTask[] {
  const stays = new Set(after.map((one) => one.key));
  // An image shares nothing with the others at its site, and takes nothing of theirs with it.
  const shares = facts.environment?.shares === true || isImage(facts);
  const goes = facts.known.filter((one) => {
    if (stays.has(one.key)) return false;
    // What is shared goes with the last environment, in the run that retires that: no other run takes it.
    if (kindOf(one.kind).shared === true)
      return facts.environment?.wanted === 'serving' && after.length === 0 && !shares;
    return one.wanted || asked.whole;
  });
  const chosen = new Set(asked.chosen.map((one) => one.key));
  const extra = facts.present.filter((one) => chosen.has(extraKey(one.ref)));
  return [
    ...goes.map((one): PlannedTask => ({
      key: one.key,
      kind: kindOf(one.kind),
      name: one.name,
      task: goingOf(one, asked.retains),
      needs: one.needs,
    })),
    ...extra.map((one): PlannedTask => ({
      key: extraKey(one.ref),
      kind: kindOf(one.kind),
      name: one.name,
      task: { do: 'remove', people: 0 },
      needs: [],
      ref: one.ref,
    })),
  ];
}

function goingOf(one: KnownResource, retains: RetainedUntil = () => undefined): PlannedTask['task'] {
  const until = retains(one);
  return until === undefined
    ? { do: 'remove', people: one.people }
    : { do: 'retain', people: one.people, until };
}

/** What is wanted otherwise than before, and what is new. */
export const editedOf = (facts: Pick<Facts, 'known'>, after: readonly Wanted[]): Wanted[] => {
  const known = new Map(facts.known.map((one) => [one.key, one]));
  return after.filter((one) => {
    const before = known.get(one.key);
    return before?.wanted !== true || isEdited(before, one) || !same(before.needs, one.needs);
  });
};
