import { DESKTOP_CHANGES } from '../../core/changes';
import type { CustomerScope } from '../access';
import { join, sql, type Connection } from '../db';

/** Whose desktop something was done to is told no more by titles of runs and by what steps said; the trail stays. */
export async function forgetWhose(tx: Connection, { customer: { id } }: CustomerScope): Promise<void> {
  const kinds = DESKTOP_CHANGES.map(({ kind }) => kind);
  await tx.write(
    sql`UPDATE run r SET r.title = r.kind WHERE r.customer_id = ${id} AND r.kind IN (${join(kinds)})`,
  );
  await tx.write("UPDATE step SET says = '' WHERE customer_id = ? AND action IN ('assign','set')", [id]);
}
