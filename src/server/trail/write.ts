import type { Actor } from '../access';
import { newId, type Connection } from '../db';

export interface TrailEntry {
  readonly customerId: string;
  readonly at: number;
  readonly actor: Pick<Actor, 'id' | 'name' | 'role'>;
  /** A verb: what was done. */
  readonly action: string;
  readonly subject: string;
  readonly runId?: string;
  readonly before?: unknown;
  readonly after?: unknown;
  readonly reason?: string;
}

/** As long as its column, in letters. */
const MOST_SUBJECT = 160;

/** What is told of something is as long as it is; where it stands in a list, it ends. */
const headed = (subject: string): string => {
  const letters = [...subject];
  return letters.length > MOST_SUBJECT ? `${letters.slice(0, MOST_SUBJECT - 1).join('')}…` : subject;
};

/** Writes who did what, in the transaction of the change that it tells. */
export async function writeTrail(connection: Connection, entry: TrailEntry): Promise<void> {
  const state = (value: unknown): string | null => (value === undefined ? null : JSON.stringify(value));
  await connection.write(
    `INSERT INTO trail (id, customer_id, at, actor, actor_role, actor_id, action, subject, run_id, before_state, after_state, reason)
     VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)`,
    [
      newId(),
      entry.customerId,
      entry.at,
      entry.actor.name,
      entry.actor.role === 'system' || entry.actor.role === 'person' ? null : entry.actor.role,
      entry.actor.id,
      entry.action,
      headed(entry.subject),
      entry.runId ?? null,
      state(entry.before),
      state(entry.after),
      entry.reason ?? '',
    ],
  );
}
