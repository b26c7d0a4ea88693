import { setTimeout as pause } from 'node:timers/promises';
import { openDemoClock, type DemoClock } from '../demo/clock';
import { demoJobs } from '../demo/jobs';
import { closeApp, openAppOn, type App } from '../server/app';
import { wallClock } from '../server/clock';
import { readConfig } from '../server/config';
import { DatabaseError, openDatabase } from '../server/db';
import { makeLog } from '../server/log';
import type { Job } from '../server/manifest';
import { JOBS } from '../server/rooms';
import { sealPrototypes } from './prototypes';

/** A process of Laager, put together. */
export interface Process {
  readonly app: App;
  readonly jobs: readonly Job[];
  /** Undefined outside the demo. */
  readonly demoClock: DemoClock | undefined;
  close(): Promise<void>;
}

const PAUSE_MS = 1_000;

/** As `openProcess`; a database that does not answer is waited for. */
export async function openPatiently(part: string, stop: AbortSignal): Promise<Process> {
  for (;;) {
    try {
      return await openProcess(part);
    } catch (error) {
      if (!(error instanceof DatabaseError) || stop.aborted) throw error;
      makeLog(part, 'warn').warn({ error: error.message }, 'the database does not answer, will try again');
      await pause(PAUSE_MS, undefined, { signal: stop }).catch(() => undefined);
    }
  }
}

/** Puts a process together from what the environment says; where that names simulations, with the demo's clock. */
export async function openProcess(part: string, env: NodeJS.ProcessEnv = process.env): Promise<Process> {
  sealPrototypes();
  const config = readConfig(env);
  const db = openDatabase(config.database);
  const isDemo = config.simulations.length > 0;
  const demoClock = isDemo
    ? await openDemoClock(db).catch(async (error: unknown) => {
        await db.close();
        throw error;
      })
    : undefined;
  const app = openAppOn({ config, part, db, clock: demoClock ?? wallClock });
  return {
    app,
    jobs: demoClock ? [...JOBS, ...demoJobs(demoClock, config.simulations)] : JOBS,
    demoClock,
    close: () => closeApp(app),
  };
}
