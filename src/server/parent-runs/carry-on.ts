import { countParts, partsToBegin, type PartState } from '../../core/parent-runs';
import { afterTrouble, pauseAfter, statusOf, type RunState } from '../../core/runs';
import { enter, MSP, requireRight, SYSTEM, systemScope, type Scope } from '../access';
import type { App } from '../app';
import { DatabaseError } from '../db';
import { OutsideError } from '../outside';
import { Problem } from '../problem';
import { write, type Tx } from '../write';
import type { ParentKind, PartMade } from './kind';
import { lockOf, partsOf, readParent, statesOf, type StoredParent, type StoredPart } from './stored';

/** What a parent run is carried on with. */
export interface ParentWork {
  readonly kinds: readonly ParentKind[];
  /** Whoever asked for it, as they may act now; undefined: they may not any more. */
  scopeOf(app: App, actorId: string): Promise<Scope | undefined>;
}

/** Carries on all parent runs: one worker at a time does it, and where it dies the next one goes on. */
export async function carryOnParents(app: App, work: ParentWork, stop: AbortSignal): Promise<void> {
  const open = await app.db.rows<{ id: string }>(
    `SELECT id FROM parent_run WHERE state IN ('running','stopping')
     UNION SELECT r.id FROM parent_run r JOIN parent_part p ON (p.owner_id, p.parent_id) = (r.customer_id, r.id)
       JOIN run c ON (c.customer_id, c.id) = (p.customer_id, p.run_id)
       WHERE r.state = 'stopped' AND p.state = 'failed' AND c.state <> 'stopped' ORDER BY id`,
  );
  const broken: unknown[] = [];
  // In turns: a long one holds up none of the others, nor does one that breaks.
  for (let going = open.map(({ id }) => id); going.length > 0 && !stop.aborted;) {
    const still: string[] = [];
    for (const id of going)
      try {
        if (await carryOn(app, work, id)) still.push(id);
      } catch (error) {
        broken.push(error);
      }
    going = still;
  }
  if (broken.length > 0) throw broken[0];
}

/** @returns whether some part was carried out, so that the next may begin */
async function carryOn(app: App, work: ParentWork, id: string): Promise<boolean> {
  await settleRuns(app, id);
  const parent = await readParent(app.db, id);
  if (parent?.state !== 'running' && parent?.state !== 'stopping') return false;
  const parts = await partsOf(app.db, id);
  const wall = app.clock.wall();
  // What is at work and follows no run was cut off: it is carried out again, also where nothing new begins.
  const cutOff = parts.filter(({ state, run }) => state === 'working' && run === null);
  const places = parent.state === 'running' ? partsToBegin(parts, parent.policy, app.clock.now()) : [];
  const next = places.flatMap((place) => parts[place] ?? []);
  const due = [...cutOff, ...next].filter(({ dueWall }) => dueWall <= wall);
  // Each by itself: what breaks here holds up none of the others.
  const ends = await Promise.allSettled(due.map((part) => carryOutPart(app, work, parent, part)));
  const broken = ends.find((one) => one.status === 'rejected');
  if (broken) throw broken.reason;
  return due.length > 0;
}

/** Carries out one part. Whatever goes wrong is written to it; only the database's own trouble is thrown. */
async function carryOutPart(
  app: App,
  work: ParentWork,
  parent: StoredParent,
  part: StoredPart,
): Promise<void> {
  if (!(await note(app, parent.id, part, { state: 'working' }))) return;
  try {
    const { says, run } = await madeOf(app, work, parent, part);
    await note(
      app,
      parent.id,
      part,
      run === undefined ? { state: 'done', says } : { state: 'working', says, run },
    );
  } catch (error) {
    if (error instanceof DatabaseError) throw error;
    if (error instanceof Problem) await note(app, parent.id, part, { state: 'failed', says: saysOf(error) });
    else await putOff(app, parent.id, part, troubleOf(error));
  }
}

async function madeOf(app: App, work: ParentWork, parent: StoredParent, part: StoredPart): Promise<PartMade> {
  const kind = work.kinds.find((one) => one.kind === parent.kind);
  if (!kind) throw new RangeError(`${parent.kind} is no kind of parent run`);
  const outer = parent.actorId === SYSTEM.actor.id ? SYSTEM : await work.scopeOf(app, parent.actorId);
  if (!outer) throw new Problem(403, 'right', 'Whoever asked for it may do it no more.');
  requireRight(outer.actor, kind.right);
  const scope = await enter(app.db, outer, part.customer, part.customerId === MSP.id);
  const input = kind.form.read(part.input);
  const carryOut = (): Promise<PartMade> => kind.carryOut(app, scope, input, { reason: parent.reason });
  try {
    return await carryOut();
  } catch (error) {
    if (!(error instanceof Problem)) throw error;
    // Somebody else may have done it at the same moment. It looks first at what was done: so it is asked once more.
    return carryOut();
  }
}

/** A mistake of ours is tried again like passing trouble, so that it shows at the part, and ends as failed. */
function troubleOf(error: unknown): string {
  if (error instanceof OutsideError) return error.says;
  return `broke: ${error instanceof Error ? error.message : String(error)}`;
}

/** What is wrong beside a field says more than that something is. */
const saysOf = ({ detail, more }: Problem): string => Object.values(more.fields ?? {})[0] ?? detail;

/** What does not go now is tried again later, as often as a step is. */
async function putOff(app: App, id: string, part: StoredPart, says: string): Promise<void> {
  const attempt = part.attempt + 1;
  app.log.warn({ parent: id, customer: part.customer, says, attempt }, 'a part of a parent run met trouble');
  if (afterTrouble(attempt, false) === 'failed') {
    await note(app, id, part, { state: 'failed', says });
    return;
  }
  const due = app.clock.wall() + pauseAfter(attempt);
  await note(app, id, part, { state: 'waiting', says, attempt, due });
}

interface Noted {
  readonly state: PartState;
  readonly says?: string;
  readonly run?: string;
  readonly attempt?: number;
  readonly due?: number;
}

/** Notes how a part stands, and where its parent stands with it. @returns whether it may go on: its parent was not stopped, and it is not done */
function note(app: App, id: string, part: StoredPart, noted: Noted): Promise<boolean> {
  const scope = systemScope({ id: part.customerId, code: part.customer });
  return write(app, scope, [lockOf(id)], async (tx) => {
    const parent = await readParent(tx, id);
    const begins = part.state === 'waiting' && noted.state === 'working';
    if (!parent || (begins && parent.state !== 'running')) return false;
    const now = app.clock.now();
    if (!(await notePart(tx, now, id, part, noted))) return false;
    await settle(tx, now, parent);
    return true;
  });
}

/** What is done stays so: a worker that slept meanwhile says nothing against it. @returns whether it was noted */
async function notePart(
  tx: Tx,
  now: number,
  id: string,
  part: StoredPart,
  { state, says, run, attempt, due }: Noted,
): Promise<boolean> {
  const ended = state === 'done' || state === 'failed' ? now : null;
  const noted = await tx.write(
    `UPDATE parent_part SET state = ?, says = IFNULL(?, says), run_id = IFNULL(?, run_id), attempt = IFNULL(?, attempt),
       due_wall = IFNULL(?, due_wall), ended_at = ? WHERE parent_id = ? AND place = ? AND state <> 'done'`,
    [state, says?.slice(0, 250) ?? null, run ?? null, attempt ?? null, due ?? null, ended, id, part.place],
  );
  if (noted > 0) await tx.touch('run', id);
  return noted > 0;
}

async function settle(tx: Tx, now: number, parent: StoredParent): Promise<void> {
  if (parent.cause === 'ended by hand') return;
  const counts = countParts(await statesOf(tx, parent.id), parent.policy);
  // One that has stopped goes on by itself where a run that it stopped for was resumed and is done.
  const before = { state: parent.state, cause: parent.cause };
  const status = statusOf(before, counts, parent.policy.failureLimit);
  if (status.state === before.state && status.cause === before.cause) return;
  const hasEnded = status.state === 'done' || status.state === 'stopped';
  await tx.write(
    'UPDATE parent_run SET state = ?, cause = ?, ended_at = ?, version = version + 1 WHERE id = ?',
    [status.state, status.cause, hasEnded ? now : null, parent.id],
  );
  if (!hasEnded) return;
  await tx.inside(systemScope(parent.owner)).record({
    action: status.state === 'done' ? 'end run' : 'run stopped',
    subject: parent.title,
    after: { done: counts.done, failed: counts.failed },
    topic: 'run',
    id: parent.id,
  });
}

/** Parts stand as the runs that they began stand. */
async function settleRuns(app: App, id: string): Promise<void> {
  for (const part of await partsOf(app.db, id)) {
    const to = part.runState === null ? undefined : AS[part.runState];
    if (to === undefined || to === part.state) continue;
    await note(app, id, part, {
      state: to,
      ...(part.run === null ? {} : { run: part.run }),
      ...(to === 'failed' ? { says: 'its run has stopped' } : {}),
    });
  }
}

const AS: Readonly<Record<RunState, PartState>> = {
  running: 'working',
  stopping: 'working',
  stopped: 'failed',
  done: 'done',
};
