import { can, RIGHTS_OF, type Role } from '../../contract';
import { rolesWith } from '../../core/access';
import { join, sql, type Connection } from '../db';
import { conflict } from '../problem';

/** Whether who has a role decides: one such there always has to be. */
export const isLead = (role: Role): boolean => can(RIGHTS_OF[role], 'decide');

/** @throws Problem 409 when nobody but this one would be lead */
export async function refuseLastLead(tx: Connection, id: string, wall: number): Promise<void> {
  const leads = await tx.row<{ n: number }>(
    sql`SELECT COUNT(*) AS n FROM operator WHERE role IN (${join(rolesWith('decide'))}) AND id <> ${id}
        AND (ends_at IS NULL OR ends_at > ${wall})`,
  );
  if ((leads?.n ?? 0) === 0) throw conflict('last-lead', 'Someone has to be lead.');
}
