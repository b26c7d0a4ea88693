/** So long somebody at a screen waits for what is outside, in milliseconds. */
export const SCREEN_MS = 8_000;

/** What is said of who gave no answer by then. */
export const LATE = { worked: false, says: `gave no answer within ${SCREEN_MS / 1_000} s` } as const;

/**
 * Waits for an answer from outside, and no longer than somebody waits at a screen. What comes later is not used.
 * @param late what is said instead
 */
export async function inTime<Answer>(work: Promise<Answer>, ms: number, late: Answer): Promise<Answer> {
  let timer: NodeJS.Timeout | undefined;
  const over = new Promise<Answer>((resolve) => (timer = setTimeout(() => resolve(late), ms)));
  // It may yet fail when nobody waits for it any more.
  work.catch(() => undefined);
  return Promise.race([work, over]).finally(() => clearTimeout(timer));
}
