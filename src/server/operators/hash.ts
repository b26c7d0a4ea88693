import { createHash } from 'node:crypto';

/** What the database keeps of a token, or counts tries by: it cannot be turned back. */
export const hashOf = (token: string): string => createHash('sha256').update(token).digest('hex');
