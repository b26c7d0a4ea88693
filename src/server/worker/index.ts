import { setTimeout as pause } from 'node:timers/promises';
import pLimit from 'p-limit';
import { SYSTEM } from '../access';
import type { App } from '../app';
import type { Job, Manifest } from '../manifest';
import { workTime } from '../outside';
import { move } from './advance';
import { claim, isAnyAtWork } from './claim';
import type { HeldStep } from './held-step';
import { hold, layOutJobs, letGo, renewHold } from './jobs';
import { Stir } from './stir';

export { advance } from './advance';
export { everythingDue, hold, lastDue, layOutJobs, letGo, notePlace } from './jobs';

/** Steps that one worker moves at a time. */
const HANDS = 6;
/** A job rests so many times as long as it worked. */
const REST = 4;
const IDLE_MS = 150;
/** While no run is at work, steps are looked for so often, or once something happens. */
const CALM_MS = 400;
const TROUBLE_MS = 1_000;

/** Works until told to stop: moves steps with several hands and does its jobs. What is in hand is ended first. */
export async function work(
  app: App,
  { jobs, rooms }: { readonly jobs: readonly Job[]; readonly rooms: readonly Manifest[] },
  stop: AbortSignal,
): Promise<void> {
  const stir = new Stir();
  let hearNoMore = (): void => undefined;
  await untilStopped(app, stop, 'laying out jobs', async () => {
    await layOutJobs(app, jobs);
    hearNoMore = await app.live.listen(SYSTEM, undefined, ({ topic }) => {
      // Figures are taken anew all the time: that is no news to any job.
      if (topic !== 'summary') stir.happened();
    });
    return 'end';
  });
  // One hand at a time looks out for a step. Who has found one goes to work, and the next looks out.
  const lookingOut = pLimit(1);
  await Promise.all([
    ...Array.from({ length: HANDS }, () =>
      untilStopped(app, stop, 'moving steps', async () => {
        const step = await lookingOut(() => lookOut(app, stir, stop));
        if (step) await move(app, step);
        return 0;
      }),
    ),
    ...jobs.map((job) =>
      untilStopped(app, stop, job.name, async () => {
        const { seen } = stir;
        await stir.rest(await doJob(app, job, rooms, stop), job.everyMs, seen, stop);
        return 0;
      }),
    ),
  ]);
  hearNoMore();
}

/** Waits for a step that is due; undefined when it is told to stop. */
async function lookOut(app: App, stir: Stir, stop: AbortSignal): Promise<HeldStep | undefined> {
  for (;;) {
    const { seen } = stir;
    const step = stop.aborted ? undefined : await claim(app);
    if (step || stop.aborted) return step;
    // A step that waits for the outside is due at its time, whatever happens.
    if (await isAnyAtWork(app)) await rest(IDLE_MS, stop);
    else await stir.rest(IDLE_MS, CALM_MS, seen, stop);
  }
}

/** @returns how long it is not due again */
async function doJob(app: App, job: Job, rooms: readonly Manifest[], stop: AbortSignal): Promise<number> {
  const held = await hold(app, job);
  // Another worker has it, and may be gone before it is done: so it is asked for a little more often than it is due.
  if (!held) return Math.max(IDLE_MS, job.everyMs / 3);
  const renewing = setInterval(() => void renewHold(app, held).catch(() => undefined), app.leaseMs / 4);
  let worked: number | undefined;
  try {
    worked = await workTime(async () => {
      await job.run(app, { lease: held, stop, rooms });
    });
  } finally {
    clearInterval(renewing);
    // With a large fleet a job has more to do, and then rests longer: never more than a fifth of the time goes to it.
    // What it waited for someone outside is no work: it is due again as ever.
    await letGo(app, held, restOf(job, worked), worked !== undefined);
  }
  return restOf(job, worked);
}

const restOf = ({ everyMs, restsItself }: Job, worked = 0): number =>
  restsItself ? everyMs : Math.max(everyMs, REST * worked);

const rest = (ms: number, stop: AbortSignal): Promise<unknown> =>
  pause(ms, undefined, { signal: stop }).catch(() => undefined);

/**
 * Does something again and again. Trouble with the database or the outside is logged and waited out; it never ends the
 * worker. @param turn says how long to rest until the next one, in ms, or that it was the last
 */
async function untilStopped(
  app: App,
  stop: AbortSignal,
  what: string,
  turn: () => Promise<number | 'end'>,
): Promise<void> {
  while (!stop.aborted) {
    try {
      const next = await turn();
      if (next === 'end') return;
      if (next > 0) await rest(next, stop);
    } catch (error) {
      app.log.warn(
        { what, error: error instanceof Error ? error.message : String(error) },
        'trouble, will try again',
      );
      await rest(TROUBLE_MS, stop);
    }
  }
}
