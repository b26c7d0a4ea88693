import { APPROVAL_DAYS } from '../../core/approval';
import type { Period } from '../../core/calendar';
import type { Impact, ProposedStep } from '../../core/planning';
import type { Policy } from '../../core/resources';
import type { CustomerScope } from '../access';
import { insertMany, newId, sql, type Connection } from '../db';
import type { Tx } from '../write';

/** A proposed step with the resource that it is done to, and the version of what is wanted of that. */
export interface RunStep extends ProposedStep {
  readonly tail: number;
  readonly resourceId: string | null;
  readonly wantedVersion: number;
}

export interface NewRun {
  /** The change that it carries out. */
  readonly kind: string;
  readonly subject: { readonly kind: 'environment' | 'image'; readonly id: string };
  readonly environmentId: string | null;
  readonly title: string;
  readonly steps: readonly RunStep[];
  readonly policy: Policy;
  /** The window that it works in first; undefined: it works at any time. */
  readonly works: Period | undefined;
  readonly impact: Impact;
  readonly intent: { readonly before: number | null; readonly after: number | null };
  readonly reason: string;
  /** Whether a lead approved it who did not ask for it. */
  readonly approved: boolean;
  /** How what it changes stood and shall stand, for the trail. */
  readonly before?: unknown;
  readonly after?: unknown;
}

/** Puts a run on the queue, with its steps and their needs. One without steps is done at once. @returns its id */
export async function createRun(tx: Tx, scope: CustomerScope, run: NewRun, now: number): Promise<string> {
  const id = newId();
  const customerId = scope.customer.id;
  const idle = run.steps.length === 0;
  await tx.write(
    `INSERT INTO run (customer_id, id, subject_kind, subject_id, environment_id, kind, title, state, policy, at_a_time,
       failure_limit, works_from, works_until, waits, steps, expected_seconds, impact, intent_before, intent_after, actor, actor_id, approved, reason, begun_at, ended_at)
     VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)`,
    [
      customerId,
      id,
      run.subject.kind,
      run.subject.id,
      run.environmentId,
      run.kind,
      run.title.slice(0, 160),
      idle ? 'done' : 'running',
      JSON.stringify(run.policy),
      run.policy.atATime,
      run.policy.failureLimit,
      run.works?.from ?? 0,
      run.works?.to ?? null,
      (run.works?.from ?? 0) > now,
      run.steps.length,
      Math.round(run.impact.seconds),
      JSON.stringify(run.impact),
      run.intent.before,
      run.intent.after,
      scope.actor.name,
      scope.actor.id,
      run.approved,
      run.reason,
      now,
      idle ? now : null,
    ],
  );
  const stepIds = new Map(run.steps.map((step) => [step.key, newId()]));
  const ahead = run.steps.find((step) => step.ahead === true);
  if (ahead && run.works)
    await tx.write('UPDATE run SET ahead_step = ? WHERE customer_id = ? AND id = ?', [
      stepIds.get(ahead.key) ?? null,
      customerId,
      id,
    ]);
  await queue(tx, customerId, id, run, stepIds);
  await tx.record({
    action: `begin ${run.kind}`,
    subject: run.title.slice(0, 160),
    run: id,
    before: run.before,
    after: run.after,
    reason: run.reason,
    topic: 'run',
    id,
  });
  return id;
}

async function queue(
  tx: Tx,
  customerId: string,
  runId: string,
  run: NewRun,
  stepIds: ReadonlyMap<string, string>,
): Promise<void> {
  const idOf = (key: string): string => {
    const found = stepIds.get(key);
    if (found === undefined) throw new Error(`${run.title}: no step ${key}`);
    return found;
  };
  await insertMany(
    tx,
    'step',
    [
      'customer_id',
      'id',
      'run_id',
      'ordinal',
      'kind',
      'action',
      'purpose',
      'subject',
      'resource_id',
      'part',
      'wanted_version',
      'state',
      'needs_left',
      'expected_seconds',
      'tail_seconds',
    ],
    run.steps.map((step, ordinal) => [
      customerId,
      idOf(step.key),
      runId,
      ordinal,
      step.kind,
      step.action,
      step.purpose,
      step.subject.slice(0, 80),
      step.resourceId,
      step.part ?? null,
      step.wantedVersion,
      'waiting',
      step.needs.length,
      step.seconds,
      Math.round(step.tail),
    ]),
  );
  await insertMany(
    tx,
    'step_need',
    ['customer_id', 'step_id', 'needs_id'],
    run.steps.flatMap((step) => step.needs.map((need) => [customerId, idOf(step.key), idOf(need)])),
  );
}

/**
 * By how many minor units a month, in the customer's currency, somebody raised the customer's cost without approval within
 * the last thirty days; what they lowered is taken off.
 */
export async function begunWithoutApproval(
  db: Connection,
  { customer, actor }: CustomerScope,
  now: number,
): Promise<number> {
  const row = await db.row<{ minor: string | null }>(
    sql`SELECT SUM(CAST(JSON_VALUE(impact, '$.monthly.minor') AS SIGNED)) AS minor FROM run
        WHERE customer_id = ${customer.id} AND actor_id = ${actor.id} AND NOT approved
          AND begun_at > ${now - APPROVAL_DAYS * 86_400_000}`,
  );
  return Number(row?.minor ?? 0);
}
