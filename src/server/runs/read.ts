import type { Run, RunWithSteps, Step } from '../../contract';
import { CHANGES, undoneByOf } from '../../core/changes';
import type { Impact } from '../../core/planning';
import type { RunState, StepState, StopCause } from '../../core/runs';
import type { Policy } from '../../core/resources';
import { within, type CustomerScope, type Scope } from '../access';
import { all, atMost, join, raw, sql, type Connection } from '../db';
import { notFound } from '../problem';

interface Stored {
  readonly id: string;
  readonly customer: string;
  readonly environment: string | null;
  readonly environment_id: string | null;
  readonly kind: string;
  readonly title: string;
  readonly state: RunState;
  readonly cause: StopCause | null;
  readonly at_a_time: number;
  readonly failure_limit: number;
  readonly steps: number;
  readonly done: number;
  readonly failed: number;
  readonly works_from: number;
  readonly works_until: number | null;
  readonly expected_seconds: number;
  readonly impact: string;
  readonly policy: string;
  readonly intent_before: number | null;
  readonly intent_after: number | null;
  readonly actor: string;
  readonly reason: string;
  readonly begun_at: number;
  readonly ended_at: number | null;
  readonly version: number;
}

const count = (...states: StepState[]): string =>
  `(SELECT COUNT(*) FROM step s WHERE s.customer_id = r.customer_id AND s.run_id = r.id
     AND s.state IN (${states.map((state) => `'${state}'`).join(',')}))`;

/** Runs first: the newest are taken by their own order, and not sorted out of everyone's. */
const RUN = `SELECT STRAIGHT_JOIN r.id, c.code AS customer, e.name AS environment, r.environment_id, r.kind, r.title, r.state, r.cause,
    r.at_a_time, r.failure_limit, r.works_from, r.works_until, r.steps, IF(r.state = 'done', r.steps, ${count('done', 'overtaken')}) AS done,
    IF(r.state = 'done', 0, ${count('failed')}) AS failed, r.expected_seconds, r.impact, r.policy, r.intent_before, r.intent_after, r.actor, r.reason, r.begun_at,
    r.ended_at, r.version
  FROM run r JOIN customer c ON c.id = r.customer_id
    LEFT JOIN environment e ON (e.customer_id, e.id) = (r.customer_id, r.environment_id)`;

export interface RunPage {
  /** The id of the last run of the page before. */
  readonly after?: string | undefined;
  readonly limit: number;
  readonly environmentId?: string | undefined;
  /** Only those whose title, reason or actor contains this. */
  readonly find?: string | undefined;
}

/** Runs, newest first: of one customer when inside it, otherwise of all in reach. */
export async function listRuns(db: Connection, scope: Scope | CustomerScope, page: RunPage): Promise<Run[]> {
  const { after, environmentId, find = '' } = page;
  const where = all([
    within(scope, 'r.customer_id'),
    after === undefined ? undefined : sql`r.id < ${after}`,
    environmentId === undefined ? undefined : sql`r.environment_id = ${environmentId}`,
    find === ''
      ? undefined
      : sql`(INSTR(r.title, ${find}) > 0 OR INSTR(r.reason, ${find}) > 0 OR INSTR(r.actor, ${find}) > 0 OR r.state = ${find})`,
  ]);
  const rows = await db.rows<Stored>(
    sql`${raw(RUN)} WHERE ${where} ORDER BY r.id DESC ${atMost(page.limit)}`,
  );
  return rows.map(readRun);
}

/** Kinds of runs that go on where an environment is to go or has gone: what retires it, and what is done after that. */
export const OF_RETIRED: readonly string[] = [
  'retire',
  ...CHANGES.filter(({ ofRetired }) => ofRetired === true).map(({ kind }) => kind),
];

/** Runs that are not done, newest first; without those that stay stopped because their environment goes or has gone. */
export async function runsUnderWay(db: Connection, scope: Scope | CustomerScope): Promise<Run[]> {
  const rows = await db.rows<Stored>(
    sql`${raw(RUN)} WHERE ${within(scope, 'r.customer_id')} AND r.state IN ('running','stopping','stopped')
       AND NOT (r.state = 'stopped' AND IFNULL(e.wanted, '') = 'retired' AND r.kind NOT IN (${join(OF_RETIRED)})) ORDER BY r.id DESC LIMIT 50`,
  );
  return rows.map(readRun);
}

/** How many runs are at work. */
export async function countUnderWay(db: Connection, scope: Scope): Promise<number> {
  const row = await db.row<{ count: number }>(
    sql`SELECT COUNT(*) AS count FROM run r WHERE ${within(scope, 'r.customer_id')} AND r.state IN ('running','stopping')`,
  );
  return row?.count ?? 0;
}

/** The last runs that are done, newest first. */
export async function runsDone(db: Connection, scope: Scope, limit: number): Promise<Run[]> {
  const rows = await db.rows<Stored>(
    sql`${raw(RUN)} WHERE ${within(scope, 'r.customer_id')} AND r.state = 'done' ORDER BY r.id DESC ${atMost(limit)}`,
  );
  return rows.map(readRun);
}

/** A run with all its steps. @throws Problem 404 */
export async function getRun(db: Connection, scope: CustomerScope, id: string): Promise<RunWithSteps> {
  const run = await db.row<Stored>(`${RUN} WHERE r.customer_id = ? AND r.id = ?`, [scope.customer.id, id]);
  if (!run) throw notFound('run');
  const steps = await db.rows<Omit<Step, 'needs'>>(
    `SELECT s.id, s.kind, s.action, s.subject, s.state, s.expected_seconds AS expectedSeconds, s.attempt, s.says,
       IFNULL(o.output, '') AS output, s.began_at AS beganAt, s.ended_at AS endedAt
     FROM step s LEFT JOIN step_output o ON (o.customer_id, o.step_id) = (s.customer_id, s.id)
     WHERE s.customer_id = ? AND s.run_id = ? ORDER BY s.ordinal`,
    [scope.customer.id, id],
  );
  const needs = await db.rows<{ step_id: string; needs_id: string }>(
    `SELECT n.step_id, n.needs_id FROM step_need n JOIN step s ON (s.customer_id, s.id) = (n.customer_id, n.step_id)
     WHERE s.customer_id = ? AND s.run_id = ?`,
    [scope.customer.id, id],
  );
  const needsOf = new Map<string, string[]>();
  for (const need of needs) needsOf.set(need.step_id, [...(needsOf.get(need.step_id) ?? []), need.needs_id]);
  return {
    ...readRun(run),
    atATime: run.at_a_time,
    failureLimit: run.failure_limit,
    policy: JSON.parse(run.policy) as Policy,
    undoTo: (JSON.parse(run.impact) as Impact).undo === 'can be undone' ? run.intent_before : null,
    madeIt: run.intent_before === null && run.intent_after !== null,
    undoneBy: await undoneBy(db, scope, run),
    graph: steps.map((step) => ({ ...step, needs: needsOf.get(step.id) ?? [] })),
  };
}

/** The change that undoes a run of hosts alone, for those of its hosts that are still there. */
async function undoneBy(
  db: Connection,
  { customer }: CustomerScope,
  { id, kind }: Stored,
): Promise<RunWithSteps['undoneBy']> {
  const opposite = undoneByOf(kind);
  if (opposite === undefined) return null;
  const hosts = await db.rows<{ id: string }>(
    `SELECT DISTINCT r.id FROM step s JOIN resource r ON (r.customer_id, r.id) = (s.customer_id, s.resource_id)
     WHERE s.customer_id = ? AND s.run_id = ? AND r.wanted AND r.returned_at IS NULL ORDER BY r.id`,
    [customer.id, id],
  );
  return hosts.length === 0 ? null : { kind: opposite, hosts: hosts.map((one) => one.id) };
}

const readRun = (row: Stored): Run => ({
  id: row.id,
  customer: row.customer,
  environment: row.environment,
  environmentId: row.environment_id,
  kind: row.kind,
  title: row.title,
  state: row.state,
  cause: row.cause,
  steps: row.steps,
  done: row.done,
  failed: row.failed,
  expectedSeconds: row.expected_seconds,
  works: row.works_until === null ? null : { from: row.works_from, to: row.works_until },
  impact: JSON.parse(row.impact) as Impact,
  actor: row.actor,
  reason: row.reason,
  begunAt: row.begun_at,
  endedAt: row.ended_at,
  version: row.version,
});

/** Whether a run of an environment was ever carried out, with nothing of it left to a later one. */
export const wasCarriedOut = async (
  db: Connection,
  { customer }: CustomerScope,
  environment: string,
): Promise<boolean> =>
  (await db.row(
    sql`SELECT 1 FROM run r WHERE r.customer_id = ${customer.id} AND r.environment_id = ${environment} AND r.state = 'done'
        AND NOT EXISTS (SELECT 1 FROM step s WHERE s.customer_id = r.customer_id AND s.run_id = r.id
          AND s.state = 'overtaken') LIMIT 1`,
  )) !== undefined;

/** Whether something of a kind was ever made for an environment. */
export const wasEverMade = async (
  db: Connection,
  { customer }: CustomerScope,
  environment: string,
  kind: string,
): Promise<boolean> =>
  (await db.row(
    sql`SELECT 1 FROM run r JOIN step s ON (s.customer_id, s.run_id) = (r.customer_id, r.id)
        WHERE r.customer_id = ${customer.id} AND r.environment_id = ${environment} AND s.kind = ${kind}
          AND s.purpose = 'make' AND s.state = 'done' LIMIT 1`,
  )) !== undefined;
