import { standingOf, type RunState, type StopCause } from '../../core/runs';
import type { CustomerScope } from '../access';
import type { App } from '../app';
import { takeTurn, transaction, type Connection } from '../db';
import { tell } from '../live';
import { conflict, notFound, Problem } from '../problem';
import { writeTrail } from '../trail';
import { countSteps } from './counts';

interface LockedRun {
  readonly title: string;
  readonly kind: string;
  readonly state: RunState;
  readonly cause: StopCause | null;
  readonly failure_limit: number;
  readonly environment_wanted: string;
  readonly version: number;
}

async function lockRun(
  connection: Connection,
  scope: CustomerScope,
  id: string,
  version: number | undefined,
): Promise<LockedRun> {
  await takeTurn(connection, 'run', { customer_id: scope.customer.id, id });
  const run = await connection.row<LockedRun>(
    `SELECT r.title, r.kind, r.state, r.cause, r.failure_limit, r.version, e.wanted AS environment_wanted
     FROM run r JOIN environment e ON (e.customer_id, e.id) = (r.customer_id, r.environment_id)
     WHERE r.customer_id = ? AND r.id = ?`,
    [scope.customer.id, id],
  );
  if (!run) throw notFound('run');
  if (version !== undefined && version !== run.version)
    throw new Problem(412, 'changed', 'The run has changed since you looked.');
  return run;
}

/** Stops a run: nothing new begins, what is under way ends. Stopping a run that is not running changes nothing. */
export async function stopRun(app: App, scope: CustomerScope, id: string, version?: number): Promise<void> {
  await transaction(app.db, async (connection) => {
    const run = await lockRun(connection, scope, id, version);
    if (run.state !== 'running') return;
    const counts = await countSteps(connection, scope.customer.id, id);
    const standing = standingOf({ state: 'stopping', cause: 'by hand' }, counts, run.failure_limit);
    await move(app, connection, scope, id, run, standing, 'stop run');
  });
}

/** Resumes a stopped run; its failed steps are tried again. @throws Problem 409 when its environment is to go */
export async function resumeRun(app: App, scope: CustomerScope, id: string, version?: number): Promise<void> {
  await transaction(app.db, async (connection) => {
    const run = await lockRun(connection, scope, id, version);
    if (run.state === 'running' || run.state === 'done') return;
    if (run.environment_wanted === 'retired' && run.kind !== 'retire')
      throw conflict('retired', 'Its environment is being retired: this run stays stopped.');
    // A step that the provider said has failed is asked for anew; one that got no answer keeps its key, because the
    // work may have been done.
    await connection.write(
      `UPDATE step SET state = 'waiting', attempt = 0, due_wall = 0, ended_at = NULL,
         round = IF(operation IS NULL, round, round + 1), operation = NULL
       WHERE customer_id = ? AND run_id = ? AND state = 'failed'`,
      [scope.customer.id, id],
    );
    await move(app, connection, scope, id, run, { state: 'running', cause: null }, 'resume run');
  });
}

async function move(
  app: App,
  connection: Connection,
  scope: CustomerScope,
  id: string,
  run: LockedRun,
  to: { readonly state: RunState; readonly cause: StopCause | null },
  action: string,
): Promise<void> {
  await connection.write(
    'UPDATE run SET state = ?, cause = ?, ended_at = NULL, version = version + 1 WHERE customer_id = ? AND id = ?',
    [to.state, to.cause, scope.customer.id, id],
  );
  await writeTrail(connection, {
    customerId: scope.customer.id,
    at: app.clock.now(),
    actor: scope.actor,
    action,
    subject: run.title,
    runId: id,
    before: { state: run.state },
    after: { state: to.state },
  });
  await tell(connection, scope.customer.id, 'run', id, app.clock.wall());
}
