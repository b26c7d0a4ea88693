import { MINUTE, type Instant } from '../calendar';

/* Looking along with somebody in their session: only with their yes, only for so long, and never hidden from them. */

/** Whoever does not answer by then is taken to have said no. */
export const ANSWER_MS = 2 * MINUTE;
/** So long it may last at most. */
export const LOOK_MS = 30 * MINUTE;

/** Whoever said no, or nothing, is left in peace for so long, whoever asks. Common practice, no source. */
const PEACE_MS = { refused: 30 * MINUTE, unanswered: 10 * MINUTE } as const;

/** What the session itself says of it: nobody answered yet, they said yes or no, or it is over. */
export const ANSWERS = ['none', 'yes', 'no', 'over'] as const;
export type Answer = (typeof ANSWERS)[number];

/** How it is: it was asked for; they said yes, and it lasts; they said no; they said nothing; or it is over. */
export const LOOK_ALONG_STATES = ['asked', 'looking', 'refused', 'unanswered', 'over'] as const;
export type LookAlongState = (typeof LOOK_ALONG_STATES)[number];

export interface LookAlong {
  readonly state: LookAlongState;
  readonly askedAt: Instant;
  /** Since when they look; null: they never did. */
  readonly since: Instant | null;
}

/** Whether it is done with: what was said then is never said again of the same asking. */
export const isDone = ({ state }: Pick<LookAlong, 'state'>): boolean =>
  state !== 'asked' && state !== 'looking';

/**
 * When somebody may be asked again, after all that they were asked before; 0: at once.
 * @example
 * mayAskFrom([{ state: 'refused', askedAt: 60_000, since: null }]) // 1_860_000
 */
export const mayAskFrom = (before: readonly LookAlong[]): Instant =>
  Math.max(
    0,
    ...before.map(({ state, askedAt }) =>
      state === 'refused' || state === 'unanswered' ? askedAt + PEACE_MS[state] : 0,
    ),
  );

/**
 * How it goes on, by what the session says now. What is done with stays so, whatever is said later.
 * @param now by the wall clock
 * @example
 * onward({ state: 'asked', askedAt: 0, since: null }, 'yes', 5_000) // { state: 'looking', askedAt: 0, since: 5000 }
 */
export function onward(before: LookAlong, answer: Answer, now: Instant): LookAlong {
  switch (before.state) {
    case 'asked':
      if (answer === 'no') return { ...before, state: 'refused' };
      if (answer === 'over') return { ...before, state: 'over' };
      // A yes that comes too late is none: nobody waits for it any more.
      if (now > before.askedAt + ANSWER_MS) return { ...before, state: 'unanswered' };
      return answer === 'yes' ? { ...before, state: 'looking', since: now } : before;
    case 'looking':
      return answer === 'yes' && now <= (before.since ?? before.askedAt) + LOOK_MS
        ? before
        : { ...before, state: 'over' };
    case 'refused':
    case 'unanswered':
    case 'over':
      return before;
  }
}
