import type { Clock } from '../clock';
import type { Connection } from '../db';
import type { Topic } from './topic';

/** Says, in the transaction of the change, that something changed. Without a customer: it concerns everyone. */
export async function tell(
  connection: Connection,
  customerId: string,
  topic: Topic,
  subjectId: string,
  wall: number,
): Promise<void> {
  await connection.write(
    'INSERT INTO live_event (customer_id, topic, subject_id, wall_at) VALUES (?, ?, ?, ?)',
    [customerId, topic, subjectId, wall],
  );
}

/** Forgets all hints: nobody has heard of what happened before. */
export const forgetHints = async (connection: Connection): Promise<void> =>
  void (await connection.write('DELETE FROM live_event'));

const KEEP_MS = 30 * 60_000;

/** Hints that nobody waits for any more. */
export const forgetEvents = ({
  db,
  clock,
}: {
  readonly db: Connection;
  readonly clock: Pick<Clock, 'wall'>;
}): Promise<number> =>
  db.write('DELETE FROM live_event WHERE wall_at < ? LIMIT 5000', [clock.wall() - KEEP_MS]);

export { Listener, type LiveEvent } from './listener';
export type { Topic } from './topic';
