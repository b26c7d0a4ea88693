import type { Instant } from '../calendar';
import { STOP_CAUSES, type StepCounts } from '../runs';

/* Runs over several customers or environments: which of their parts begins when. */

export const PART_STATES = ['waiting', 'working', 'done', 'failed'] as const;
export type PartState = (typeof PART_STATES)[number];

/** Why it has stopped; `ended by hand`: why it is done although parts of it are not. */
export const PARENT_CAUSES = [...STOP_CAUSES, 'ended by hand'] as const;
export type ParentCause = (typeof PARENT_CAUSES)[number];

/** One part of a parent run. */
export interface Part {
  readonly state: PartState;
  /** When it was done or failed; null: it has not ended. */
  readonly endedAt: Instant | null;
}

/** How a parent run goes about its parts. */
export interface ParentPolicy {
  /** So many are at work at a time, from 1. */
  readonly atATime: number;
  /** It stops after so many have failed, from 1. */
  readonly failureLimit: number;
  /** So many go first, and all of them have to be done before any other begins; 0: none. */
  readonly pilots: number;
  /** Minutes from the end of one group to the beginning of the next; 0: a part begins as soon as another has ended. */
  readonly pauseMinutes: number;
}

/**
 * The places of the parts that begin now, in their order.
 * @param parts in the order in which they are done
 * @example
 * const policy = { atATime: 2, failureLimit: 1, pilots: 1, pauseMinutes: 0 };
 * const waiting = { state: 'waiting', endedAt: null } as const;
 * partsToBegin([waiting, waiting, waiting], policy, 0) // [0]
 */
export function partsToBegin(parts: readonly Part[], policy: ParentPolicy, now: Instant): number[] {
  const pilots = parts.slice(0, policy.pilots);
  const reach = pilots.every(({ state }) => state === 'done') ? parts.length : pilots.length;
  const working = parts.filter(({ state }) => state === 'working').length;
  if (policy.pauseMinutes > 0 && (working > 0 || now < pausedUntil(parts, policy))) return [];
  return parts
    .flatMap(({ state }, place) => (state === 'waiting' && place < reach ? [place] : []))
    .slice(0, Math.max(0, policy.atATime - working));
}

/** Until when nothing begins because a group has just ended. */
function pausedUntil(parts: readonly Part[], { pauseMinutes }: ParentPolicy): Instant {
  const ends = parts.flatMap(({ endedAt }) => endedAt ?? []);
  return ends.length === 0 ? 0 : Math.max(...ends) + pauseMinutes * 60_000;
}

/** Its parts, counted as the steps of a run are: those that may ever begin as things are count as ready. */
export function countParts(parts: readonly Part[], { pilots }: Pick<ParentPolicy, 'pilots'>): StepCounts {
  const count = (state: PartState, among = parts): number =>
    among.filter((one) => one.state === state).length;
  const first = parts.slice(0, pilots);
  const isBarred = count('failed', first) > 0;
  return {
    waiting: count('waiting'),
    ready: count('waiting', isBarred ? first : parts),
    working: count('working'),
    done: count('done'),
    failed: count('failed'),
  };
}
