import { openDemoClock, type DemoClock } from '../demo/clock';
import { demoJobs } from '../demo/jobs';
import { closeApp, openAppOn, type App } from '../server/app';
import { wallClock } from '../server/clock';
import { readConfig } from '../server/config';
import { openDatabase } from '../server/db';
import { JOBS, type Job } from '../server/worker';

/** A process of Laager, put together. */
export interface Process {
  readonly app: App;
  readonly jobs: readonly Job[];
  /** Undefined outside the demo. */
  readonly demoClock: DemoClock | undefined;
  close(): Promise<void>;
}

/** Puts a process together from what the environment says; where that names simulations, with the demo's clock. */
export async function openProcess(part: string, env: NodeJS.ProcessEnv = process.env): Promise<Process> {
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
