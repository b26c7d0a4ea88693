import type { App } from '../app';
import { ProviderTrouble, type ResourceKind } from '../provider';
import { claim } from './claim';
import { placeOf, type Job, type Place } from './job';
import { settle, settleTrouble } from './settle';
import type { Progress } from './progress';
import { WORK } from './work';

/**
 * Takes one step that is due and moves it on: begins it, or looks how its operation is doing. Whatever goes wrong is
 * written to the step; only the database's own trouble is thrown.
 * @returns whether there was a step to move
 */
export async function advance(app: App): Promise<boolean> {
  const job = await claim(app.db, { wall: app.clock.wall(), now: app.clock.now() });
  if (!job) return false;
  const log = app.log.child({
    run: job.runId,
    step: job.id,
    kind: job.kind,
    customer: job.scope.customer.code,
  });
  let place: Place | undefined;
  try {
    place = await placeOf(app.db, job);
    const progress =
      job.operation === null ? await WORK[job.kind](app, job, place) : await look(app, job, job.operation);
    await settle(app, job, place, progress);
    if (progress.kind !== 'under way')
      log.info({ says: progress.says, subject: job.subject }, `step ${progress.kind}`);
  } catch (error) {
    const trouble = troubleOf(error);
    if (!trouble) throw error;
    log.warn({ ...trouble, attempt: job.attempt }, 'step met trouble');
    await settleTrouble(app, job, place, trouble);
  }
  return true;
}

interface Trouble {
  readonly says: string;
  readonly lasting: boolean;
  readonly retryAfterMs?: number | undefined;
}

/** Undefined for trouble with the database, which carries a code: it is not the step's, and is waited out. */
function troubleOf(error: unknown): Trouble | undefined {
  if (error instanceof ProviderTrouble)
    return { says: error.message, lasting: error.lasting, retryAfterMs: error.retryAfterMs };
  if (!(error instanceof Error) || 'code' in error) return undefined;
  // A mistake of ours: tried again like passing trouble, so that it shows at the step, and ends as failed.
  return { says: `broke: ${error.message}`, lasting: false };
}

const MAKES: Readonly<Record<string, ResourceKind>> = {
  network: 'network',
  subnet: 'subnet',
  share: 'share',
  pool: 'pool',
  host: 'host',
};

async function look(app: App, job: Job, operation: string): Promise<Progress> {
  const seen = await app.provider.operation(operation);
  if (seen.state === 'working') return { kind: 'under way', operation };
  if (seen.state === 'failed') return { kind: 'failed', says: seen.says };
  const kind = MAKES[job.kind];
  return kind === undefined
    ? { kind: 'done', says: '' }
    : { kind: 'done', says: '', made: { kind, ref: seen.resource } };
}
