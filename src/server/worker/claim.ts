import type { Purpose } from '../../core/resources';
import { systemScope } from '../access';
import type { Clock } from '../clock';
import { takeLocks, transaction, type Connection, type Database } from '../db';
import { tell } from '../live';
import type { HeldStep } from './held-step';

/** Where steps are claimed. A worker that dies holds a step for `leaseMs` of the wall's time; one that lives renews it. */
interface ClaimHouse {
  readonly db: Database;
  readonly clock: Clock;
  readonly leaseMs: number;
}

interface Stored {
  readonly customer_id: string;
  readonly code: string;
  readonly id: string;
  readonly run_id: string;
  readonly kind: string;
  readonly action: string;
  readonly purpose: Purpose;
  readonly subject: string;
  readonly resource_id: string | null;
  readonly part: number | null;
  readonly wanted_version: number;
  readonly round: number;
  readonly attempt: number;
  readonly looks: number;
  readonly fence: number;
  readonly operation: string | null;
  readonly memo: string;
}

const STEP = `s.customer_id, (SELECT c.code FROM customer c WHERE c.id = s.customer_id) AS code, s.id, s.run_id, s.kind,
  s.action, s.purpose, s.subject, s.resource_id, s.part, s.wanted_version, s.round, s.attempt, s.looks, s.fence, s.operation, s.memo
  FROM step s`;

/** SQL: whether a run may work at an instant that is given twice. One that waits for its window lets others go first. */
function inWindow(run: 'p' | 'r'): string {
  return `${run}.works_from <= ? AND (${run}.works_until IS NULL OR ${run}.works_until > ?)`;
}

/** SQL: whether step `s` of run `r` may be done at an instant that is given twice: in the window, or ahead of it. */
const ITS_TIME = `(s.id = r.ahead_step OR (${inWindow('r')}))`;

/**
 * Others on the same resource come first: whoever is at work on it, and what an earlier run that goes on has yet to do
 * to it. So what is wanted last is done last.
 */
const FREE = `NOT EXISTS (SELECT 1 FROM step o JOIN run p ON (p.customer_id, p.id) = (o.customer_id, o.run_id)
  WHERE o.customer_id = s.customer_id AND o.resource_id = s.resource_id AND o.id <> s.id
    AND (o.state = 'working' OR (o.state = 'waiting' AND o.run_id < s.run_id AND p.state = 'running' AND ${inWindow('p')})))`;

/**
 * Takes one step that is due: first one that is under way, or was when its worker died, else one that can begin.
 * Rows that another worker is taking are passed over, so any number of workers share the queue.
 */
export async function claim({ db, clock, leaseMs }: ClaimHouse): Promise<HeldStep | undefined> {
  const [wall, now] = [clock.wall(), clock.now()];
  return transaction(db, async (connection) => {
    const step = (await underWay(connection, wall)) ?? (await nextToBegin(connection, { wall, now }));
    if (!step) return undefined;
    await connection.write(
      'UPDATE step SET fence = fence + 1, lease_wall = ? WHERE customer_id = ? AND id = ?',
      [wall + leaseMs, step.customer_id, step.id],
    );
    return {
      scope: systemScope({ id: step.customer_id, code: step.code }),
      id: step.id,
      runId: step.run_id,
      kind: step.kind,
      action: step.action,
      purpose: step.purpose,
      subject: step.subject,
      resourceId: step.resource_id,
      part: step.part,
      wantedVersion: step.wanted_version,
      round: step.round,
      attempt: step.attempt,
      looks: step.looks,
      fence: step.fence + 1,
      operation: step.operation,
      memo: step.memo,
    };
  });
}

const underWay = (connection: Connection, wall: number): Promise<Stored | undefined> =>
  connection.row<Stored>(
    `SELECT ${STEP} WHERE s.state = 'working' AND s.needs_left = 0 AND s.due_wall <= ? AND s.lease_wall <= ?
     ORDER BY s.due_wall LIMIT 1 FOR UPDATE SKIP LOCKED`,
    [wall, wall],
  );

interface Moment {
  readonly wall: number;
  readonly now: number;
}

async function nextToBegin(connection: Connection, { wall, now }: Moment): Promise<Stored | undefined> {
  const run = await connection.row<{ customer_id: string; id: string }>(
    `SELECT r.customer_id, r.id FROM run r
     WHERE r.state = 'running' AND (r.ahead_step IS NOT NULL OR ${inWindow('r')})
       AND EXISTS (SELECT 1 FROM step s WHERE s.customer_id = r.customer_id AND s.run_id = r.id
         AND ${ITS_TIME} AND s.state = 'waiting' AND s.needs_left = 0 AND s.due_wall <= ? AND ${FREE})
       AND (SELECT COUNT(*) FROM step w WHERE w.customer_id = r.customer_id AND w.run_id = r.id
         AND w.state = 'working') < r.at_a_time
     ORDER BY r.id LIMIT 1 FOR UPDATE SKIP LOCKED`,
    [now, now, now, now, wall, now, now],
  );
  if (!run) return undefined;
  await takeLocks(connection, [{ table: 'run', key: { customer_id: run.customer_id, id: run.id } }]);
  // Counted again under the run's lock: another worker may have begun a step while we waited for it.
  const free = await connection.row<{ places: number }>(
    `SELECT r.at_a_time - (SELECT COUNT(*) FROM step w WHERE w.customer_id = r.customer_id AND w.run_id = r.id
       AND w.state = 'working') AS places
     FROM run r WHERE r.customer_id = ? AND r.id = ? AND r.state = 'running'`,
    [run.customer_id, run.id],
  );
  if ((free?.places ?? 0) <= 0) return undefined;
  // The order that the estimate assumes: what has the longest way still to go comes first.
  const step = await connection.row<Stored>(
    `SELECT ${STEP} JOIN run r ON (r.customer_id, r.id) = (s.customer_id, s.run_id)
     WHERE s.customer_id = ? AND s.run_id = ? AND ${ITS_TIME} AND s.state = 'waiting' AND s.needs_left = 0
       AND s.due_wall <= ? AND ${FREE} ORDER BY s.tail_seconds DESC, s.ordinal LIMIT 1 FOR UPDATE SKIP LOCKED`,
    [run.customer_id, run.id, now, now, wall, now, now],
  );
  if (!step || !(await isFree(connection, step, now))) return undefined;
  await connection.write(
    "UPDATE step SET state = 'working', began_at = IFNULL(began_at, ?) WHERE customer_id = ? AND id = ?",
    [now, step.customer_id, step.id],
  );
  await tell(connection, step.customer_id, 'run', step.run_id, wall);
  return step;
}

/** Looked at again under the resource's lock: a step of another run may have taken it meanwhile. */
async function isFree(connection: Connection, step: Stored, now: number): Promise<boolean> {
  if (step.resource_id === null) return true;
  await takeLocks(connection, [
    { table: 'resource', key: { customer_id: step.customer_id, id: step.resource_id } },
  ]);
  const found = await connection.row<{ id: string }>(
    `SELECT s.id FROM step s WHERE s.customer_id = ? AND s.id = ? AND ${FREE}`,
    [step.customer_id, step.id, now, now],
  );
  return found !== undefined;
}

/** Goes on holding a step while its work lasts. @returns whether it is still held */
export async function renew({ db, clock, leaseMs }: ClaimHouse, step: HeldStep): Promise<boolean> {
  const wall = clock.wall();
  const renewed = await db.write(
    `UPDATE step SET lease_wall = GREATEST(lease_wall + 1, ?) WHERE customer_id = ? AND id = ? AND fence = ?
       AND state = 'working' AND lease_wall > ?`,
    [wall + leaseMs, step.scope.customer.id, step.id, step.fence, wall],
  );
  return renewed > 0;
}

/** Whether any run is at work: then a step may be due at any moment. */
export const isAnyAtWork = async ({ db, clock }: Pick<ClaimHouse, 'db' | 'clock'>): Promise<boolean> =>
  (await db.row(
    "SELECT 1 FROM run r WHERE r.state IN ('running','stopping') AND (r.works_from <= ? OR r.ahead_step IS NOT NULL) LIMIT 1",
    [clock.now()],
  )) !== undefined;
