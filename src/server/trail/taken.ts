import type { CustomerScope } from '../access';
import type { App } from '../app';
import { writeTrail } from './write';

/** Puts on the trail who took a file of a customer's people away, or of all that is theirs. */
export const noteTaken = (
  { db, clock }: Pick<App, 'db' | 'clock'>,
  { actor, customer }: CustomerScope,
  file: string,
): Promise<void> =>
  writeTrail(db, { customerId: customer.id, at: clock.now(), actor, action: 'take file', subject: file });
