import type { CustomerScope } from '../access';
import type { App } from '../app';
import { sql, type Connection } from '../db';

/** Whose something was that was there is kept no more. */
export async function forgetPersons(tx: Connection, { customer }: CustomerScope): Promise<void> {
  await tx.write(sql`DELETE FROM session_past WHERE customer_id = ${customer.id}`);
  await tx.write(
    `UPDATE present_resource SET attributes = JSON_SET(attributes, '$.person', '')
     WHERE customer_id = ? AND JSON_EXISTS(attributes, '$.person')`,
    [customer.id],
  );
}

/** It is known so long where somebody was: a month and a day, for what a month cost is shared out by it. */
const KEEP_MS = 32 * 86_400_000;

export const forgetPastSessions = (app: App): Promise<number> =>
  app.db.write(sql`DELETE FROM session_past WHERE ended_at < ${app.clock.now() - KEEP_MS} LIMIT 5000`);
