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

export { Listener, type LiveEvent } from './listener';
export type { Topic } from './topic';
