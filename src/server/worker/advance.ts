import type { App } from '../app';
import { DatabaseError } from '../db';
import { OutsideError } from '../outside';
import { FRAME_WORK, presentOf, type Outcome } from '../resources';
import { claim, renew } from './claim';
import { LeaseLost, placeOf, type HeldStep, type StepPlace } from './held-step';
import { nowOf } from './now';
import { settle, settleTrouble, type Overtaken, type Trouble } from './settle';

/**
 * Takes one step that is due and moves it on: begins it, or looks how it is doing. Whatever goes wrong is written to the
 * step; only the database's own trouble is thrown.
 * @returns whether there was a step to move
 */
export async function advance(app: App): Promise<boolean> {
  const step = await claim(app);
  if (step) await move(app, step);
  return step !== undefined;
}

/** Moves a step on that was claimed. */
export async function move(app: App, step: HeldStep): Promise<void> {
  const log = app.log.child({
    run: step.runId,
    step: step.id,
    kind: step.kind,
    action: step.action,
    customer: step.scope.customer.code,
  });
  const stopRenewing = keepRenewing(app, step);
  try {
    const outcome = await workOn(app, step);
    await settle(app, step, outcome);
    if (outcome.kind !== 'wait')
      log.info({ says: outcome.says, subject: step.subject }, `step ${outcome.kind}`);
  } catch (error) {
    if (error instanceof DatabaseError) throw error;
    if (error instanceof LeaseLost) {
      log.warn('step was taken over by another worker');
      return;
    }
    const trouble = troubleOf(error);
    log.warn({ ...trouble, attempt: step.attempt }, 'step met trouble');
    await settleTrouble(app, step, trouble);
  } finally {
    stopRenewing();
  }
}

async function workOn(app: App, step: HeldStep): Promise<Outcome | Overtaken> {
  const place = await placeOf(app.db, step);
  // What is under way at the provider is followed to its end, whatever is wanted by now.
  if (place.overtakenBy !== undefined && step.operation === null) {
    if (step.fence > 1) await forestall(app, step, place);
    return { kind: 'overtaken', says: place.overtakenBy };
  }
  return work(app, step, place);
}

/**
 * Who held the step before may only be asleep, with a call on its lips. It is bound to the version that it read: so the
 * resource gets another one, and the call comes to nothing.
 */
async function forestall(app: App, step: HeldStep, place: StepPlace): Promise<void> {
  if (!place.resource) return;
  const now = { ...(await nowOf(app, step, place)), resource: place.resource };
  const present = await presentOf(now);
  if (present && present.state !== 'gone')
    await now.provider.tag(present.ref, present.version, { run: step.runId, step: step.id });
}

async function work(app: App, step: HeldStep, place: StepPlace): Promise<Outcome> {
  const now = await nowOf(app, step, place);
  const { resource } = place;
  if (!resource) {
    const frame = FRAME_WORK[step.action];
    if (!frame) throw new Error(`there is no work for ${step.action}`);
    return frame(now);
  }
  const action = app.catalogue.work(step.kind).actions[step.action];
  if (!action) throw new Error(`there is no work for ${step.kind} ${step.action}`);
  return action({ ...now, resource });
}

/** Renews the lease as long as the work lasts, so that nobody else begins it meanwhile. */
function keepRenewing(app: App, step: HeldStep): () => void {
  const timer = setInterval(() => {
    renew(app, step).catch((error: unknown) =>
      app.log.warn({ step: step.id, error: String(error) }, 'a lease could not be renewed'),
    );
  }, app.leaseMs / 3);
  timer.unref();
  return () => clearInterval(timer);
}

function troubleOf(error: unknown): Trouble {
  if (error instanceof OutsideError)
    return { says: error.says, trouble: error.trouble, retryAfterMs: error.retryAfterMs };
  // A mistake of ours: tried again like passing trouble, so that it shows at the step, and ends as failed.
  return { says: `broke: ${error instanceof Error ? error.message : String(error)}`, trouble: 'passing' };
}
