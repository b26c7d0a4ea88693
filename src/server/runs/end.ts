import type { CustomerScope } from '../access';
import type { Tx } from '../write';

/**
 * Ends the runs of an environment that has been retired, also those that wait for their window: what they had left is not wanted any more. What a step that
 * failed said stays beside it.
 */
export async function endRunsOf(
  tx: Tx,
  { customer }: CustomerScope,
  environmentId: string,
  now: number,
): Promise<void> {
  const open =
    "r.customer_id = ? AND r.environment_id = ? AND r.kind <> 'retire' AND (r.state IN ('stopping','stopped') OR (r.waits AND r.state = 'running'))";
  const runs = await tx.rows<{ id: string }>(`SELECT r.id FROM run r WHERE ${open}`, [
    customer.id,
    environmentId,
  ]);
  await tx.write(
    `UPDATE step s JOIN run r ON (r.customer_id, r.id) = (s.customer_id, s.run_id)
     SET s.state = 'overtaken', s.says = IF(s.says = '', 'its environment was retired', s.says), s.ended_at = ?
     WHERE ${open} AND s.state IN ('waiting','failed')`,
    [now, customer.id, environmentId],
  );
  // Where a step is still at work, its end ends the run.
  await tx.write(
    `UPDATE run r SET r.state = 'done', r.cause = NULL, r.ended_at = ?, r.version = r.version + 1 WHERE ${open}
       AND NOT EXISTS (SELECT 1 FROM step s WHERE s.customer_id = r.customer_id AND s.run_id = r.id AND s.state = 'working')`,
    [now, customer.id, environmentId],
  );
  for (const { id } of runs) await tx.touch('run', id);
}

/**
 * Notes a run as done whole: everything that it was to make stands, under these references. For what was built before
 * anyone watched; nothing outside is asked.
 * @param refs the provider's names, by the ids of the resources
 */
export async function noteStanding(
  tx: Tx,
  { customer }: CustomerScope,
  run: string,
  refs: ReadonlyMap<string, string>,
  at: number,
): Promise<void> {
  for (const [resource, ref] of refs)
    await tx.write(
      `UPDATE resource r JOIN site s ON s.code = r.site_code SET r.ref = ?, r.provider_code = s.provider_code
       WHERE r.customer_id = ? AND r.id = ?`,
      [ref, customer.id, resource],
    );
  await tx.write(
    `UPDATE step SET state = 'done', needs_left = 0, began_at = ?, ended_at = ? WHERE customer_id = ? AND run_id = ?`,
    [at, at, customer.id, run],
  );
  await tx.write(
    `UPDATE run SET state = 'done', ended_at = begun_at + 1000 * expected_seconds, version = version + 1
     WHERE customer_id = ? AND id = ?`,
    [customer.id, run],
  );
  await tx.touch('run', run);
}
