import type { App } from '../app';
import { transaction, type Connection } from '../db';
import type { Job, JobLease } from '../manifest';

/* Jobs as rows of the database: who has one, until when, and when it is due again. */

/** Takes a job that is due; undefined when it is not, or another worker has it. */
export async function hold(app: App, job: Job): Promise<JobLease | undefined> {
  const wall = app.clock.wall();
  return transaction(app.db, async (connection) => {
    const row = await connection.row<{ fence: number; place: string }>(
      'SELECT fence, place FROM job WHERE name = ? AND due_wall <= ? AND lease_wall <= ? FOR UPDATE SKIP LOCKED',
      [job.name, wall, wall],
    );
    if (!row) return undefined;
    await connection.write('UPDATE job SET fence = fence + 1, lease_wall = ? WHERE name = ?', [
      wall + app.leaseMs,
      job.name,
    ]);
    return { name: job.name, place: row.place, fence: row.fence + 1 };
  });
}

/** Goes on holding a job while its work lasts. */
export async function renewHold(app: App, held: JobLease): Promise<void> {
  await app.db.write('UPDATE job SET lease_wall = ? WHERE name = ? AND fence = ?', [
    app.clock.wall() + app.leaseMs,
    held.name,
    held.fence,
  ]);
}

/** Lets go of a job until it is due again; `done`: whether it was done to its end. */
export async function letGo(app: App, held: JobLease, restMs: number, done: boolean): Promise<void> {
  const wall = app.clock.wall();
  await app.db.write(
    'UPDATE job SET lease_wall = 0, due_wall = ?, done_wall = IF(?, ?, done_wall) WHERE name = ? AND fence = ?',
    [wall + restMs, done, wall, held.name, held.fence],
  );
}

/** Notes how far a job has come, for as long as it is held. */
export const notePlace = async (app: App, held: JobLease, place: string): Promise<void> =>
  void (await app.db.write('UPDATE job SET place = ? WHERE name = ? AND fence = ?', [
    place,
    held.name,
    held.fence,
  ]));

/** Makes the rows that jobs are held by. */
export async function layOutJobs(app: App, jobs: readonly Job[]): Promise<void> {
  for (const job of jobs)
    await app.db.write(
      "INSERT IGNORE INTO job (name, lease_wall, due_wall, fence, place) VALUES (?, 0, 0, 0, '')",
      [job.name],
    );
}

/** When a job is due next, or was when its last worker ended. Wall time. */
export async function lastDue(db: Connection, name: string): Promise<number> {
  const row = await db.row<{ due: number }>('SELECT due_wall AS due FROM job WHERE name = ?', [name]);
  return row?.due ?? 0;
}

/** Nothing is held or rests any longer: for whoever has set the clock that leases went by. */
export async function everythingDue(db: Connection): Promise<void> {
  await db.write('UPDATE job SET lease_wall = 0, due_wall = 0');
  await db.write('UPDATE step SET lease_wall = 0, due_wall = 0');
}
