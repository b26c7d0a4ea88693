import type { Instant } from '../calendar';

/** What a host last said of itself. Parts are in hundredths of the whole, from 0. */
export interface Vitals {
  /** When it last said anything. */
  readonly heardAt: Instant;
  /** Of all its vCPU, over five minutes. */
  readonly load: number;
  readonly memory: number;
  /** Of its file system. */
  readonly disk: number;
  /** How far its clock is from the right time, in ms, either way. */
  readonly clockOffMs: number;
  /** The release of its agent, like `4.2`. */
  readonly agent: string;
  /** How many tried to sign in within a quarter of an hour, and how many of them were refused. */
  readonly signIns: { readonly tried: number; readonly refused: number };
  /** How long signing in took them, on the average, in seconds; 0: nobody did. */
  readonly signInSeconds: number;
}

/** A host as it was heard when a provider was last asked. */
export interface Heard extends Vitals {
  /** When the provider was asked, by its own clock: what was said is measured against it. */
  readonly askedAt: Instant;
  /** Whether the provider itself says that it is not well. */
  readonly isUnwell: boolean;
  /** Whether it stands among those that the provider says run; else nothing is heard of it. */
  readonly isMentioned: boolean;
}

/** What the hosts of a provider have in common. */
export interface Among {
  /** The release of the agent that most of them have; empty: none is known. */
  readonly agent: string;
}

/** A beat is expected so often. */
export const BEAT_MS = 30_000;
/** So many beats are missed before a host counts as silent: one can be lost on the way. */
export const MISSED_BEATS = 3;

/** The release that most have; of several as frequent ones the newest. */
export function commonAgent(all: readonly Pick<Vitals, 'agent'>[]): string {
  const counts = new Map<string, number>();
  for (const { agent } of all) if (agent !== '') counts.set(agent, (counts.get(agent) ?? 0) + 1);
  return (
    [...counts]
      .sort(([one, a], [other, b]) => b - a || compareReleases(other, one))
      .map(([agent]) => agent)[0] ?? ''
  );
}

/**
 * Which of two releases is the newer: its parts are compared as numbers, from the left.
 * @example
 * compareReleases('4.10', '4.9') // 1
 */
export function compareReleases(one: string, other: string): number {
  const [a, b] = [one, other].map((release) =>
    release.split('.').map((part) => Number.parseInt(part, 10) || 0),
  );
  for (let at = 0; at < Math.max(a?.length ?? 0, b?.length ?? 0); at++) {
    const difference = (a?.[at] ?? 0) - (b?.[at] ?? 0);
    if (difference !== 0) return Math.sign(difference);
  }
  return 0;
}
