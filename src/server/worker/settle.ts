import {
  afterTrouble,
  lookAfter,
  pauseAfter,
  statusOf,
  type RunState,
  type StopCause,
} from '../../core/runs';
import type { App } from '../app';
import { giveBack } from '../claims';
import type { Connection } from '../db';
import type { OutsideError } from '../outside';
import type { Outcome } from '../resources';
import { countSteps } from '../runs';
import { write, type Tx } from '../write';
import type { HeldStep } from './held-step';

/** It is wanted otherwise by now, and others see to that. */
export interface Overtaken {
  readonly kind: 'overtaken';
  readonly says: string;
}

/** A step that had to be begun anew so often does not become what is wanted. */
const MOST_ROUNDS = 200;

/**
 * Writes how far a step has come, with all that follows from it, in one transaction. A worker that lost its lease
 * writes nothing: the fencing number has moved on.
 */
export async function settle(app: App, step: HeldStep, outcome: Outcome | Overtaken): Promise<void> {
  if (outcome.kind !== 'overtaken' && outcome.output !== undefined)
    await keepOutput(app, step, outcome.output);
  switch (outcome.kind) {
    case 'wait':
      await holdOn(app, step, outcome);
      return;
    case 'again':
      if (step.round >= MOST_ROUNDS)
        await end(app, step, { kind: 'failed', says: 'does not become what is wanted' });
      else await goAgain(app, step, outcome);
      return;
    default:
      await end(app, step, outcome);
  }
}

/** So much of what a step wrote is kept, the last of it. */
const MOST_OUTPUT = 12_000;

const keepOutput = (app: App, step: HeldStep, output: string): Promise<unknown> =>
  app.db.write(
    `INSERT INTO step_output (customer_id, step_id, output)
     SELECT customer_id, id, ? FROM step WHERE ${HELD} ON DUPLICATE KEY UPDATE output = VALUES(output)`,
    [output.slice(-MOST_OUTPUT), ...held(step)],
  );

const HELD = "customer_id = ? AND id = ? AND fence = ? AND state = 'working'";
const held = (step: HeldStep): (string | number)[] => [step.scope.customer.id, step.id, step.fence];

async function holdOn(app: App, step: HeldStep, outcome: Extract<Outcome, { kind: 'wait' }>): Promise<void> {
  await app.db.write(
    `UPDATE step SET operation = ?, memo = ?, says = ?, attempt = 0, looks = looks + 1, due_wall = ?, lease_wall = 0 WHERE ${HELD}`,
    [
      outcome.operation ?? null,
      outcome.memo ?? step.memo,
      outcome.says.slice(0, 250),
      app.clock.wall() + lookAfter(step.looks),
      ...held(step),
    ],
  );
}

async function goAgain(
  app: App,
  step: HeldStep,
  outcome: Extract<Outcome, { kind: 'again' }>,
): Promise<void> {
  await write(app, step.scope, [], async (tx) => {
    const mine = await tx.write(
      `UPDATE step SET operation = NULL, says = ?, round = round + ?, looks = 0, due_wall = 0, lease_wall = 0 WHERE ${HELD}`,
      [outcome.says.slice(0, 250), outcome.anew === 'step' ? 1 : 0, ...held(step)],
    );
    if (mine > 0 && outcome.anew === 'resource') await nextRound(tx, step);
  });
}

/** What was made is no more: made again, it is made under another key. */
const nextRound = (connection: Connection, step: HeldStep): Promise<number> =>
  connection.write('UPDATE resource SET round = round + 1, ref = NULL WHERE customer_id = ? AND id = ?', [
    step.scope.customer.id,
    step.resourceId,
  ]);

/** So often a step is tried again at once after something changed under it. */
const AT_ONCE = 3;

export interface Trouble {
  readonly says: string;
  readonly trouble: OutsideError['trouble'];
  readonly retryAfterMs?: number | undefined;
}

/** After passing trouble the step is tried again by and by; after trouble that lasts it has failed. */
export async function settleTrouble(app: App, step: HeldStep, trouble: Trouble): Promise<void> {
  if (afterTrouble(step.attempt + 1, trouble.trouble === 'lasting') === 'failed') {
    await end(app, step, { kind: 'failed', says: trouble.says });
    return;
  }
  // What changed under us is looked at again at once; what goes on changing gets a rest like other trouble.
  const isFresh = trouble.trouble === 'changed' && step.attempt < AT_ONCE;
  const pause = isFresh ? 0 : (trouble.retryAfterMs ?? pauseAfter(step.attempt));
  await app.db.write(
    `UPDATE step SET attempt = attempt + 1, says = ?, due_wall = ?, lease_wall = 0 WHERE ${HELD}`,
    [trouble.says.slice(0, 250), app.clock.wall() + pause, ...held(step)],
  );
}

interface LockedRun {
  readonly state: RunState;
  readonly cause: StopCause | null;
  readonly failure_limit: number;
  readonly title: string;
}

type Ending = Extract<Outcome | Overtaken, { kind: 'done' | 'failed' | 'overtaken' }>;

async function end(app: App, step: HeldStep, ending: Ending): Promise<void> {
  const customerId = step.scope.customer.id;
  const now = app.clock.now();
  await write(
    app,
    step.scope,
    [{ table: 'run', key: { customer_id: customerId, id: step.runId } }],
    async (tx) => {
      const run = await tx.row<LockedRun>(
        'SELECT state, cause, failure_limit, title FROM run WHERE customer_id = ? AND id = ?',
        [customerId, step.runId],
      );
      // What failed by the provider's own word is asked for anew when it is tried again; what got no answer is not.
      const anew = ending.kind === 'failed' ? ending.anew : undefined;
      const mine = await tx.write(
        `UPDATE step SET state = ?, says = ?, ended_at = ?, lease_wall = 0, operation = NULL, memo = '',
           round = round + ? WHERE ${HELD}`,
        [ending.kind, ending.says.slice(0, 250), now, anew === 'step' ? 1 : 0, ...held(step)],
      );
      if (!run || mine === 0) return;
      if (anew === 'resource') await nextRound(tx, step);
      if (ending.kind === 'done') await noteDone(tx, step, ending, now);
      if (ending.kind !== 'failed')
        await tx.write(
          `UPDATE step s JOIN step_need n ON (n.customer_id, n.step_id) = (s.customer_id, s.id)
           SET s.needs_left = s.needs_left - 1 WHERE n.customer_id = ? AND n.needs_id = ?`,
          [customerId, step.id],
        );
      await moveRun(app, tx, step, run, now);
      await tx.touch('run', step.runId);
    },
  );
}

async function noteDone(
  tx: Tx,
  step: HeldStep,
  ending: Extract<Outcome, { kind: 'done' }>,
  now: number,
): Promise<void> {
  const [customerId, id] = [step.scope.customer.id, step.resourceId];
  // What was to be done ahead of the window is done: until that comes, nothing of this run has to be looked for.
  if (id === null)
    await tx.write('UPDATE run SET ahead_step = NULL WHERE customer_id = ? AND id = ? AND ahead_step = ?', [
      customerId,
      step.runId,
      step.id,
    ]);
  if (ending.ref !== undefined)
    await tx.write(
      `UPDATE resource r JOIN site s ON s.code = r.site_code SET r.ref = ?, r.provider_code = s.provider_code
       WHERE r.customer_id = ? AND r.id = ?`,
      [ending.ref, customerId, id],
    );
  if (ending.gone === true) {
    await nextRound(tx, step);
    await tx.write(
      'UPDATE resource SET retained_until = NULL WHERE customer_id = ? AND id = ? AND NOT wanted',
      [customerId, id],
    );
  } else if (ending.retained !== true) return;
  // What is not wanted any more is given back: its name, its address, its place.
  const returned = await tx.write(
    `UPDATE resource SET returned_at = ? WHERE customer_id = ? AND id = ? AND NOT wanted AND returned_at IS NULL`,
    [now, customerId, id],
  );
  if (returned > 0 && id !== null) await giveBack(tx, customerId, id);
}

async function moveRun(app: App, tx: Tx, step: HeldStep, run: LockedRun, now: number): Promise<void> {
  const customerId = step.scope.customer.id;
  const counts = await countSteps(tx, customerId, step.runId);
  const before = { state: run.state, cause: run.cause };
  const status = statusOf(before, counts, run.failure_limit);
  if (status.state === before.state && status.cause === before.cause) return;
  const ended = status.state === 'done' || status.state === 'stopped';
  await tx.write(
    'UPDATE run SET state = ?, cause = ?, ended_at = ?, version = version + 1 WHERE customer_id = ? AND id = ?',
    [status.state, status.cause, ended ? now : null, customerId, step.runId],
  );
  if (ended)
    await tx.record({
      action: status.state === 'done' ? 'end run' : 'run stopped',
      subject: run.title,
      run: step.runId,
      before,
      after: { state: status.state, cause: status.cause, done: counts.done, failed: counts.failed },
      topic: 'environment',
      id: step.runId,
    });
  app.log.info({ run: step.runId, customer: step.scope.customer.code, state: status.state }, 'run moved');
}
