import { countParts } from '../../core/parent-runs';
import { statusOf, type RunState } from '../../core/runs';
import { enter, MSP, reachable, type Scope } from '../access';
import { sql } from '../db';
import { conflict, notFound, Problem } from '../problem';
import { write, type Tx, type WriteHouse } from '../write';
import { lockOf, readParent, statesOf, type StoredParent } from './stored';

/** Stops it: no other part begins, what is under way ends. Stopping one that does not run changes nothing. */
export const stopParent = (house: WriteHouse, scope: Scope, id: string, version?: number): Promise<void> =>
  inControl(house, scope, id, version, async (tx, parent) => {
    if (parent.state !== 'running') return;
    const counts = countParts(await statesOf(tx, id), parent.policy);
    const status = statusOf({ state: 'stopping', cause: 'by hand' }, counts, parent.policy.failureLimit);
    await moveTo(tx, parent, status, 'stop run');
  });

/** Resumes it: what has failed is tried again. */
export const resumeParent = (house: WriteHouse, scope: Scope, id: string, version?: number): Promise<void> =>
  inControl(house, scope, id, version, async (tx, parent) => {
    if (parent.state === 'running' || parent.state === 'done') return;
    await tx.write(
      `UPDATE parent_part SET state = 'waiting', attempt = 0, due_wall = 0, ended_at = NULL, run_id = NULL
       WHERE parent_id = ? AND state = 'failed'`,
      [id],
    );
    await moveTo(tx, parent, { state: 'running', cause: null }, 'resume run');
  });

/** Ends one that has stopped: what was not done stays undone. @throws Problem 409 where it has not stopped */
export const endParent = (house: WriteHouse, scope: Scope, id: string, version?: number): Promise<void> =>
  inControl(house, scope, id, version, async (tx, parent) => {
    if (parent.state === 'done') return;
    if (parent.state !== 'stopped')
      throw conflict('running', 'Stop the run first, and wait until its current parts have ended.');
    await moveTo(tx, parent, { state: 'done', cause: 'ended by hand' }, 'end run', house.clock.now());
  });

/** @throws Problem 404, 403 where some part is beyond reach, 412 where it has changed since it was read */
const inControl = (
  house: WriteHouse,
  scope: Scope,
  id: string,
  version: number | undefined,
  work: (tx: Tx, parent: StoredParent) => Promise<void>,
): Promise<void> =>
  write(house, scope, [lockOf(id)], async (tx) => {
    const reach = await tx.row<{ own: string | null; all: number }>(
      sql`SELECT SUM(${reachable(scope, 'customer_id')}) AS own, COUNT(*) AS \`all\` FROM parent_part WHERE parent_id = ${id}`,
    );
    const parent = await readParent(tx, id);
    if (!parent || Number(reach?.own ?? 0) === 0) throw notFound('run');
    if (Number(reach?.own) !== reach?.all)
      throw new Problem(403, 'reach', 'Some of its customers are beyond your reach.');
    if (version !== undefined && version !== parent.version)
      throw new Problem(412, 'changed', 'The run has changed since you looked.');
    // It stands on the trail of whose it is.
    const { id: owner, code } = parent.owner;
    await work(owner === MSP.id ? tx : tx.inside(await enter(tx, scope, code)), parent);
  });

async function moveTo(
  tx: Tx,
  { id, title, state: before }: StoredParent,
  { state, cause }: Pick<StoredParent, 'state' | 'cause'>,
  action: string,
  ended: number | null = null,
): Promise<void> {
  await tx.write(
    'UPDATE parent_run SET state = ?, cause = ?, ended_at = ?, version = version + 1 WHERE id = ?',
    [state, cause, ended, id],
  );
  const states: { before: { state: RunState }; after: { state: RunState } } = {
    before: { state: before },
    after: { state },
  };
  await tx.record({ action, subject: title, ...states, topic: 'run', id });
}
