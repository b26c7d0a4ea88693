import type { Connection } from '../db';
import { conflict } from '../problem';

/** @throws Problem 409 when nobody but this one would be lead */
export async function refuseLastLead(tx: Connection, id: string, wall: number): Promise<void> {
  const leads = await tx.row<{ n: number }>(
    "SELECT COUNT(*) AS n FROM operator WHERE role = 'lead' AND id <> ? AND (ends_at IS NULL OR ends_at > ?)",
    [id, wall],
  );
  if ((leads?.n ?? 0) === 0) throw conflict('last-lead', 'Someone has to be lead.');
}
