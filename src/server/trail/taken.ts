import type { CustomerScope } from '../access';
import type { Clock } from '../clock';
import type { Connection } from '../db';
import { writeTrail } from './write';

/** Puts on the trail who took a file of a customer's people away, or of all that is theirs. */
export const noteTaken = (
  { db, clock }: { readonly db: Connection; readonly clock: Pick<Clock, 'now'> },
  { actor, customer }: CustomerScope,
  file: string,
): Promise<void> =>
  writeTrail(db, { customerId: customer.id, at: clock.now(), actor, action: 'take file', subject: file });
