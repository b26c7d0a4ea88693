import type { CustomerScope } from '../access';
import type { Clock } from '../clock';
import type { Connection } from '../db';
import { writeTrail } from './write';

/** Puts on the trail who downloaded a file of a customer's people, or of all their data. */
export const noteDownload = (
  { db, clock }: { readonly db: Connection; readonly clock: Pick<Clock, 'now'> },
  { actor, customer }: CustomerScope,
  file: string,
): Promise<void> =>
  writeTrail(db, { customerId: customer.id, at: clock.now(), actor, action: 'download file', subject: file });
