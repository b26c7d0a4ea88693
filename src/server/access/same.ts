import { createHash, timingSafeEqual } from 'node:crypto';

const hashOf = (text: string): Buffer => createHash('sha256').update(text).digest();

/** Whether a secret that is shown is the one that is wanted; how long that takes tells nothing of either. */
export const sameSecret = (shown: string, wanted: string): boolean =>
  timingSafeEqual(hashOf(shown), hashOf(wanted));
