import type { SessionActKey } from '../../core/session-acts';
import type { CustomerScope } from '../access';
import { sql, type Connection } from '../db';

interface Told {
  readonly id: string;
  readonly account: string;
  readonly host: string;
  readonly act: SessionActKey;
  readonly text: string;
  readonly dueAt: number;
  readonly state: 'waiting' | 'done' | 'failed';
  readonly says: string;
  readonly actor: string;
}

/** What was done with a customer's sessions lately, the newest first. */
export const listActs = (db: Connection, { customer }: CustomerScope): Promise<Told[]> =>
  db.rows<Told>(
    sql`SELECT id, account, host, act, text, due_at AS dueAt, state, says, actor FROM session_act
        WHERE customer_id = ${customer.id} ORDER BY id DESC LIMIT 200`,
  );
