import { setTimeout as pause } from 'node:timers/promises';
import type { App } from '../app';
import { workTime } from '../outside';
import { advance } from './advance';
import { hold, layOutJobs, letGo, renewHold, type Job } from './jobs';

export { advance } from './advance';
export { everythingDue, hold, JOBS, lastDue, layOutJobs, letGo, notePlace, type Job } from './jobs';

/** Steps that one worker moves at a time. */
const HANDS = 6;
/** A job rests so many times as long as it worked. */
const REST = 4;
const IDLE_MS = 150;
const TROUBLE_MS = 1_000;

/** Works until told to stop: moves steps with several hands and does its jobs. What is in hand is ended first. */
export async function work(app: App, jobs: readonly Job[], stop: AbortSignal): Promise<void> {
  await untilStopped(app, stop, 'laying out jobs', async () => {
    await layOutJobs(app, jobs);
    return 'end';
  });
  await Promise.all([
    ...Array.from({ length: HANDS }, () =>
      untilStopped(app, stop, 'moving steps', async () => ((await advance(app)) ? 'again' : 'rest')),
    ),
    ...jobs.map((job) => untilStopped(app, stop, job.name, () => doJob(app, job))),
  ]);
}

async function doJob(app: App, job: Job): Promise<'rest'> {
  const held = await hold(app, job);
  if (!held) return 'rest';
  const renewing = setInterval(() => void renewHold(app, held).catch(() => undefined), app.leaseMs / 4);
  let worked: number | undefined;
  try {
    worked = await workTime(() => job.run(app, held));
  } finally {
    clearInterval(renewing);
    // With a large fleet a job has more to do, and then rests longer: never more than a fifth of the time goes to it.
    // What it waited for someone outside is no work: it is due again as ever.
    await letGo(app, held, Math.max(job.everyMs, REST * (worked ?? 0)), worked !== undefined);
  }
  return 'rest';
}

/** Trouble with the database or the outside is logged and waited out; it never ends the worker. */
async function untilStopped(
  app: App,
  stop: AbortSignal,
  what: string,
  turn: () => Promise<'again' | 'rest' | 'end'>,
): Promise<void> {
  while (!stop.aborted) {
    try {
      const next = await turn();
      if (next === 'end') return;
      if (next === 'rest') await pause(IDLE_MS, undefined, { signal: stop }).catch(() => undefined);
    } catch (error) {
      app.log.warn(
        { what, error: error instanceof Error ? error.message : String(error) },
        'trouble, will try again',
      );
      await pause(TROUBLE_MS, undefined, { signal: stop }).catch(() => undefined);
    }
  }
}
