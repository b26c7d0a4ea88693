import type { Impact, ProposedStep } from '../../core/proposal';
import type { CustomerScope } from '../access';
import { insertMany, newId, type Connection } from '../db';
import { tell } from '../live';
import { writeTrail } from '../trail';

export type RunKind = 'provision' | 'retire' | 'power-on' | 'power-off' | 'drain' | 'accept';

/** A proposed step with the id of the wanted thing that it is done to. */
export interface RunStep extends ProposedStep {
  readonly wantedId: string;
}

export interface NewRun {
  readonly kind: RunKind;
  readonly environmentId: string;
  readonly title: string;
  readonly steps: readonly RunStep[];
  readonly atATime: number;
  readonly failureLimit: number;
  readonly impact: Impact;
  readonly reason: string;
  /** How what it changes stood and shall stand, for the trail. */
  readonly before?: unknown;
  readonly after?: unknown;
}

/** Puts a run on the queue, with its steps and their needs, in the caller's transaction. @returns its id */
export async function createRun(
  connection: Connection,
  scope: CustomerScope,
  run: NewRun,
  now: number,
  wall: number,
): Promise<string> {
  const id = newId();
  const customerId = scope.customer.id;
  await connection.write(
    `INSERT INTO run (customer_id, id, environment_id, kind, title, state, at_a_time, failure_limit, steps,
       expected_seconds, impact, actor, reason, begun_at) VALUES (?, ?, ?, ?, ?, 'running', ?, ?, ?, ?, ?, ?, ?, ?)`,
    [
      customerId,
      id,
      run.environmentId,
      run.kind,
      run.title,
      run.atATime,
      run.failureLimit,
      run.steps.length,
      Math.round(run.impact.seconds),
      JSON.stringify(run.impact),
      scope.actor.name,
      run.reason,
      now,
    ],
  );
  const stepIds = new Map(run.steps.map((step) => [step.key, newId()]));
  const idOf = (key: string): string => {
    const found = stepIds.get(key);
    if (found === undefined) throw new Error(`${run.title}: no step ${key}`);
    return found;
  };
  await insertMany(
    connection,
    'step',
    [
      'customer_id',
      'id',
      'run_id',
      'ordinal',
      'kind',
      'subject',
      'wanted_id',
      'state',
      'needs_left',
      'expected_seconds',
    ],
    run.steps.map((step, ordinal) => [
      customerId,
      idOf(step.key),
      id,
      ordinal,
      step.kind,
      step.subject,
      step.wantedId,
      'waiting',
      step.needs.length,
      step.seconds,
    ]),
  );
  await insertMany(
    connection,
    'step_need',
    ['customer_id', 'step_id', 'needs_id'],
    run.steps.flatMap((step) => step.needs.map((need) => [customerId, idOf(step.key), idOf(need)])),
  );
  await writeTrail(connection, {
    customerId,
    at: now,
    actor: scope.actor,
    action: `begin ${run.kind}`,
    subject: run.title,
    runId: id,
    before: run.before,
    after: run.after,
    reason: run.reason,
  });
  await tell(connection, customerId, 'run', id, wall);
  return id;
}
