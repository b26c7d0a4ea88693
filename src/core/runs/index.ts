import { SECOND } from '../calendar';

/** `overtaken`: it was wanted otherwise by the time it came to it, and a later run sees to that. */
export const STEP_STATES = ['waiting', 'working', 'done', 'overtaken', 'failed'] as const;
export type StepState = (typeof STEP_STATES)[number];

/** `stopping`: nothing new begins, what is under way ends. `stopped`: can be resumed, its failed steps retried. */
export const RUN_STATES = ['running', 'stopping', 'stopped', 'done'] as const;
export type RunState = (typeof RUN_STATES)[number];

export const STOP_CAUSES = ['by hand', 'failure limit', 'steps failed'] as const;
export type StopCause = (typeof STOP_CAUSES)[number];

export interface RunStatus {
  readonly state: RunState;
  readonly cause: StopCause | null;
}

/** A run's steps, counted. `ready` are the waiting ones whose needs are all done. */
export interface StepCounts {
  readonly waiting: number;
  readonly ready: number;
  readonly working: number;
  readonly done: number;
  readonly failed: number;
}

/**
 * Where a run stands after its steps changed. It is done when every step is; it stops when as many steps failed as its
 * limit allows, or when those that failed leave nothing that could begin. Steps under way are always let end.
 * @param failureLimit from 1
 */
export function statusOf(now: RunStatus, counts: StepCounts, failureLimit: number): RunStatus {
  const left = counts.waiting + counts.working + counts.failed;
  if (left === 0) return { state: 'done', cause: null };
  const status = now.state === 'running' ? runningOn(now, counts, failureLimit) : now;
  if (status.state === 'stopping' && counts.working === 0) return { ...status, state: 'stopped' };
  return status;
}

function runningOn(now: RunStatus, counts: StepCounts, failureLimit: number): RunStatus {
  if (counts.failed >= failureLimit) return { state: 'stopping', cause: 'failure limit' };
  if (counts.failed > 0 && counts.ready === 0 && counts.working === 0)
    return { state: 'stopping', cause: 'steps failed' };
  return now;
}

/** How a refusal from outside is taken: `again` after a pause, or `failed` for a person to look at. */
export function afterTrouble(attempt: number, lasting: boolean): 'again' | 'failed' {
  return lasting || attempt >= MOST_ATTEMPTS ? 'failed' : 'again';
}

/** Passing trouble (no answer, 429, 5xx) is tried so often before a step counts as failed. */
export const MOST_ATTEMPTS = 40;

/** Pause before attempt `attempt + 1`: doubling from half a second up to 30 seconds. In milliseconds. */
export const pauseAfter = (attempt: number): number =>
  Math.min(30 * SECOND, 500 * 2 ** Math.min(attempt, 10));

/**
 * Pause before what is under way outside is looked at again, having been looked at `looks` times: from 0.4 seconds on,
 * longer by 10 milliseconds each time, up to 10 seconds. So it is seen to have ended within a twentieth of what it took
 * (or half a second), and an hour of waiting costs some hundreds of questions, not nine thousand. In milliseconds.
 */
export const lookAfter = (looks: number): number => Math.min(10 * SECOND, 400 + 10 * looks);
