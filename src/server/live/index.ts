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

export { Listener, type LiveEvent } from './listener';
export type { Topic } from './topic';
