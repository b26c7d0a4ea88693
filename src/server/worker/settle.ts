import { afterTrouble, pauseAfter, standingOf, type RunState, type StopCause } from '../../core/runs';
import type { App } from '../app';
import { newId, takeTurn, transaction, type Connection } from '../db';
import { tell } from '../live';
import { countSteps } from '../runs/counts';
import { writeTrail } from '../trail';
import type { Job, Place } from './job';
import type { Progress } from './progress';

/** How often an operation under way is looked at. Wall time. */
const LOOK_MS = 400;

/**
 * Writes how far a step has come, with all that follows from it, in one transaction. A worker that lost its lease
 * writes nothing: the fencing number has moved on.
 */
export async function settle(app: App, job: Job, place: Place, progress: Progress): Promise<void> {
  switch (progress.kind) {
    case 'under way':
      await holdOn(app, job, progress.operation);
      return;
    case 'failed':
      await end(app, job, place, 'failed', progress.says);
      return;
    case 'done':
      await end(app, job, place, 'done', progress.says, progress.made);
      return;
  }
}

async function holdOn(app: App, job: Job, operation: string): Promise<void> {
  await app.db.write(
    `UPDATE step SET operation = ?, attempt = 0, due_wall = ?, lease_wall = 0
     WHERE customer_id = ? AND id = ? AND fence = ? AND state = 'working'`,
    [operation, app.clock.wall() + LOOK_MS, job.scope.customer.id, job.id, job.fence],
  );
}

/** After passing trouble the step is tried again by and by; after trouble that lasts it has failed. */
export async function settleTrouble(
  app: App,
  job: Job,
  place: Place | undefined,
  trouble: { readonly says: string; readonly lasting: boolean; readonly retryAfterMs?: number | undefined },
): Promise<void> {
  if (place && afterTrouble(job.attempt + 1, trouble.lasting) === 'failed') {
    await end(app, job, place, 'failed', trouble.says);
    return;
  }
  await app.db.write(
    `UPDATE step SET attempt = attempt + 1, says = ?, due_wall = ?, lease_wall = 0
     WHERE customer_id = ? AND id = ? AND fence = ? AND state = 'working'`,
    [
      trouble.says.slice(0, 250),
      app.clock.wall() + (trouble.retryAfterMs ?? pauseAfter(job.attempt)),
      job.scope.customer.id,
      job.id,
      job.fence,
    ],
  );
}

interface LockedRun {
  readonly state: RunState;
  readonly cause: StopCause | null;
  readonly failure_limit: number;
  readonly title: string;
}

type Made = Extract<Progress, { kind: 'done' }>['made'];

async function end(
  app: App,
  job: Job,
  place: Place,
  state: 'done' | 'failed',
  says: string,
  made?: Made,
): Promise<void> {
  const customerId = job.scope.customer.id;
  const now = app.clock.now();
  await transaction(app.db, async (connection) => {
    await takeTurn(connection, 'run', { customer_id: customerId, id: job.runId });
    const run = await connection.row<LockedRun>(
      'SELECT state, cause, failure_limit, title FROM run WHERE customer_id = ? AND id = ?',
      [customerId, job.runId],
    );
    const held = await connection.write(
      `UPDATE step SET state = ?, says = ?, ended_at = ?, lease_wall = 0
       WHERE customer_id = ? AND id = ? AND fence = ? AND state = 'working'`,
      [state, says.slice(0, 250), now, customerId, job.id, job.fence],
    );
    if (!run || held === 0) return;
    if (made) await link(connection, job, place, made, now);
    if (state === 'done')
      await connection.write(
        `UPDATE step s JOIN step_need n ON (n.customer_id, n.step_id) = (s.customer_id, s.id)
         SET s.needs_left = s.needs_left - 1 WHERE n.customer_id = ? AND n.needs_id = ?`,
        [customerId, job.id],
      );
    await moveRun(app, connection, job, run, now);
    await tell(connection, customerId, 'run', job.runId, app.clock.wall());
  });
}

async function link(
  connection: Connection,
  job: Job,
  place: Place,
  made: NonNullable<Made>,
  now: number,
): Promise<void> {
  await connection.write(
    `INSERT INTO link (customer_id, id, environment_id, kind, wanted_id, ref, made_at) VALUES (?, ?, ?, ?, ?, ?, ?)
     ON DUPLICATE KEY UPDATE made_at = made_at`,
    [job.scope.customer.id, newId(), place.environmentId, made.kind, job.wantedId, made.ref, now],
  );
}

async function moveRun(
  app: App,
  connection: Connection,
  job: Job,
  run: LockedRun,
  now: number,
): Promise<void> {
  const customerId = job.scope.customer.id;
  const counts = await countSteps(connection, customerId, job.runId);
  const before = { state: run.state, cause: run.cause };
  const standing = standingOf(before, counts, run.failure_limit);
  if (standing.state === before.state && standing.cause === before.cause) return;
  const ended = standing.state === 'done' || standing.state === 'stopped';
  await connection.write(
    'UPDATE run SET state = ?, cause = ?, ended_at = ?, version = version + 1 WHERE customer_id = ? AND id = ?',
    [standing.state, standing.cause, ended ? now : null, customerId, job.runId],
  );
  await connection.write('UPDATE tally SET stale = TRUE WHERE customer_id = ?', [customerId]);
  if (ended)
    await writeTrail(connection, {
      customerId,
      at: now,
      actor: job.scope.actor,
      action: standing.state === 'done' ? 'end run' : 'run stopped',
      subject: run.title,
      runId: job.runId,
      before,
      after: { state: standing.state, cause: standing.cause, done: counts.done, failed: counts.failed },
    });
  app.log.info({ run: job.runId, customer: job.scope.customer.code, state: standing.state }, 'run moved');
}
