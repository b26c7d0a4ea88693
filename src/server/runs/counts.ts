import type { StepCounts, StepState } from '../../core/runs';
import type { Connection } from '../db';

/** A run's steps, counted by state. */
export async function countSteps(
  connection: Connection,
  customerId: string,
  runId: string,
): Promise<StepCounts> {
  const rows = await connection.rows<{ state: StepState; ready: number; steps: number }>(
    `SELECT state, needs_left = 0 AS ready, COUNT(*) AS steps FROM step
     WHERE customer_id = ? AND run_id = ? GROUP BY state, needs_left = 0`,
    [customerId, runId],
  );
  const count = (state: StepState, onlyReady = false): number =>
    rows
      .filter((row) => row.state === state && (!onlyReady || row.ready === 1))
      .reduce((sum, row) => sum + row.steps, 0);
  return {
    waiting: count('waiting'),
    ready: count('waiting', true),
    working: count('working'),
    done: count('done') + count('overtaken'),
    failed: count('failed'),
  };
}
