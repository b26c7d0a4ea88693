import { statusOf, type RunState, type StopCause } from '../../core/runs';
import type { CustomerScope } from '../access';
import type { Lock } from '../db';
import { conflict, notFound, Problem } from '../problem';
import { write, type Tx, type WriteHouse } from '../write';
import { countSteps } from './counts';
import { OF_RETIRED } from './read';

interface LockedRun {
  readonly title: string;
  readonly kind: string;
  readonly state: RunState;
  readonly cause: StopCause | null;
  readonly failure_limit: number;
  readonly environment_wanted: string | null;
  readonly version: number;
}

const lockOf = (scope: CustomerScope, id: string): Lock[] => [
  { table: 'run', key: { customer_id: scope.customer.id, id } },
];

async function readLocked(
  tx: Tx,
  scope: CustomerScope,
  id: string,
  version: number | undefined,
): Promise<LockedRun> {
  const run = await tx.row<LockedRun>(
    `SELECT r.title, r.kind, r.state, r.cause, r.failure_limit, r.version, e.wanted AS environment_wanted
     FROM run r LEFT JOIN environment e ON (e.customer_id, e.id) = (r.customer_id, r.environment_id)
     WHERE r.customer_id = ? AND r.id = ?`,
    [scope.customer.id, id],
  );
  if (!run) throw notFound('run');
  if (version !== undefined && version !== run.version)
    throw new Problem(412, 'changed', 'The run has changed since you looked.');
  return run;
}

/** Stops a run: nothing new begins, what is under way ends. Stopping a run that is not running changes nothing. */
export async function stopRun(
  house: WriteHouse,
  scope: CustomerScope,
  id: string,
  version?: number,
): Promise<void> {
  await write(house, scope, lockOf(scope, id), async (tx) => {
    const run = await readLocked(tx, scope, id, version);
    if (run.state !== 'running') return;
    const counts = await countSteps(tx, scope.customer.id, id);
    const status = statusOf({ state: 'stopping', cause: 'by hand' }, counts, run.failure_limit);
    await move(tx, scope, id, run, status, 'stop run');
  });
}

/** Resumes a stopped run; its failed steps are tried again. @throws Problem 409 when its environment is to go */
export async function resumeRun(
  house: WriteHouse,
  scope: CustomerScope,
  id: string,
  version?: number,
): Promise<void> {
  await write(house, scope, lockOf(scope, id), async (tx) => {
    const run = await readLocked(tx, scope, id, version);
    if (run.state === 'running' || run.state === 'done') return;
    if (run.environment_wanted === 'retired' && !OF_RETIRED.includes(run.kind))
      throw conflict('retired', 'Its environment is being retired: this run stays stopped.');
    // Rounds stay as they are: they grew when the provider itself said that something had failed, and only then.
    await tx.write(
      `UPDATE step SET state = 'waiting', attempt = 0, looks = 0, due_wall = 0, ended_at = NULL
       WHERE customer_id = ? AND run_id = ? AND state = 'failed'`,
      [scope.customer.id, id],
    );
    await move(tx, scope, id, run, { state: 'running', cause: null }, 'resume run');
  });
}

async function move(
  tx: Tx,
  scope: CustomerScope,
  id: string,
  run: LockedRun,
  to: { readonly state: RunState; readonly cause: StopCause | null },
  action: string,
): Promise<void> {
  await tx.write(
    'UPDATE run SET state = ?, cause = ?, ended_at = NULL, version = version + 1 WHERE customer_id = ? AND id = ?',
    [to.state, to.cause, scope.customer.id, id],
  );
  await tx.record({
    action,
    subject: run.title,
    run: id,
    before: { state: run.state },
    after: { state: to.state },
    topic: 'run',
    id,
  });
}
