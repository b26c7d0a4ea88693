import type { StepKind } from '../../core/proposal';
import { systemScope } from '../access';
import { takeTurn, transaction, type Connection, type Database } from '../db';
import { tell } from '../live';
import type { Job } from './job';

/** A worker that dies holds a step for so long; then another takes it on. In wall time. */
const LEASE_MS = Number(process.env.LAAGER_LEASE_MS ?? 30_000);

interface Stored {
  readonly customer_id: string;
  readonly code: string;
  readonly id: string;
  readonly run_id: string;
  readonly kind: StepKind;
  readonly subject: string;
  readonly wanted_id: string;
  readonly round: number;
  readonly attempt: number;
  readonly fence: number;
  readonly operation: string | null;
}

const STEP = `s.customer_id, (SELECT c.code FROM customer c WHERE c.id = s.customer_id) AS code, s.id, s.run_id, s.kind,
  s.subject, s.wanted_id, s.round, s.attempt, s.fence, s.operation FROM step s`;

/**
 * Takes one step that is due: first one that is under way, or was when its worker died, else one that can begin.
 * Rows that another worker is taking are passed over, so any number of workers share the queue.
 */
export async function claim(
  db: Database,
  time: { readonly wall: number; readonly now: number },
): Promise<Job | undefined> {
  return transaction(db, async (connection) => {
    const step = (await underWay(connection, time.wall)) ?? (await nextToBegin(connection, time));
    if (!step) return undefined;
    await connection.write(
      'UPDATE step SET fence = fence + 1, lease_wall = ? WHERE customer_id = ? AND id = ?',
      [time.wall + LEASE_MS, step.customer_id, step.id],
    );
    return {
      scope: systemScope({ id: step.customer_id, code: step.code }),
      id: step.id,
      runId: step.run_id,
      kind: step.kind,
      subject: step.subject,
      wantedId: step.wanted_id,
      round: step.round,
      attempt: step.attempt,
      fence: step.fence + 1,
      operation: step.operation,
    };
  });
}

const underWay = (connection: Connection, wall: number): Promise<Stored | undefined> =>
  connection.row<Stored>(
    `SELECT ${STEP} WHERE s.state = 'working' AND s.needs_left = 0 AND s.due_wall <= ? AND s.lease_wall <= ?
     ORDER BY s.due_wall LIMIT 1 FOR UPDATE SKIP LOCKED`,
    [wall, wall],
  );

async function nextToBegin(
  connection: Connection,
  { wall, now }: { readonly wall: number; readonly now: number },
): Promise<Stored | undefined> {
  const run = await connection.row<{ customer_id: string; id: string; at_a_time: number }>(
    `SELECT r.customer_id, r.id, r.at_a_time FROM run r
     WHERE r.state = 'running'
       AND EXISTS (SELECT 1 FROM step s WHERE s.customer_id = r.customer_id AND s.run_id = r.id
         AND s.state = 'waiting' AND s.needs_left = 0 AND s.due_wall <= ?)
       AND (SELECT COUNT(*) FROM step w WHERE w.customer_id = r.customer_id AND w.run_id = r.id
         AND w.state = 'working') < r.at_a_time
     ORDER BY r.id LIMIT 1 FOR UPDATE SKIP LOCKED`,
    [wall],
  );
  if (!run) return undefined;
  // Counted again in the run's turn: another worker may have begun a step while we waited for it.
  await takeTurn(connection, 'run', { customer_id: run.customer_id, id: run.id });
  const working = await connection.row<{ steps: number }>(
    "SELECT COUNT(*) AS steps FROM step WHERE customer_id = ? AND run_id = ? AND state = 'working'",
    [run.customer_id, run.id],
  );
  if ((working?.steps ?? 0) >= run.at_a_time) return undefined;
  const step = await connection.row<Stored>(
    `SELECT ${STEP} WHERE s.customer_id = ? AND s.run_id = ? AND s.state = 'waiting' AND s.needs_left = 0
       AND s.due_wall <= ? ORDER BY s.ordinal LIMIT 1 FOR UPDATE SKIP LOCKED`,
    [run.customer_id, run.id, wall],
  );
  if (!step) return undefined;
  await connection.write(
    "UPDATE step SET state = 'working', began_at = IFNULL(began_at, ?) WHERE customer_id = ? AND id = ?",
    [now, step.customer_id, step.id],
  );
  await tell(connection, step.customer_id, 'run', step.run_id, wall);
  return step;
}
