import type { CustomerScope } from '../access';
import type { Tx } from '../write';

/**
 * Ends the stopped runs of an environment of which nothing is left to do: all that they have not done is made, made anew or
 * taken away by a run that was begun now.
 */
export async function overtakeStopped(
  tx: Tx,
  scope: CustomerScope,
  environment: string,
  begun: { readonly id: string; readonly title: string },
  now: number,
): Promise<void> {
  const { id: customer } = scope.customer;
  const stopped = await tx.rows<{ id: string; title: string }>(
    `SELECT r.id, r.title FROM run r
     WHERE r.customer_id = ? AND r.environment_id = ? AND r.state = 'stopped' AND r.id <> ?
       AND NOT EXISTS (SELECT 1 FROM step s WHERE s.customer_id = r.customer_id AND s.run_id = r.id
         AND s.state IN ('waiting','working','failed')
         AND (s.state = 'working' OR s.resource_id IS NULL OR NOT EXISTS (SELECT 1 FROM step n
           WHERE n.customer_id = s.customer_id AND n.run_id = ? AND n.resource_id = s.resource_id
             AND n.purpose IN ('make','replace','remove'))))`,
    [customer, environment, begun.id, begun.id],
  );
  for (const { id, title } of stopped) {
    const ended = await tx.write(
      `UPDATE run SET state = 'done', cause = NULL, ended_at = ?, version = version + 1
       WHERE customer_id = ? AND id = ? AND state = 'stopped'`,
      [now, customer, id],
    );
    if (ended === 0) continue;
    await tx.write(
      `UPDATE step SET says = IF(state = 'failed', says, ?), state = 'overtaken', ended_at = ?, needs_left = 0
       WHERE customer_id = ? AND run_id = ? AND state IN ('waiting','failed')`,
      [`"${begun.title}" does it`.slice(0, 250), now, customer, id],
    );
    await tx.record({
      action: 'end run',
      subject: title,
      run: id,
      before: { state: 'stopped' },
      after: { state: 'done' },
      topic: 'run',
      id,
    });
  }
}
