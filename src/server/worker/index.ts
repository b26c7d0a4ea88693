import { setTimeout as pause } from 'node:timers/promises';
import type { App } from '../app';
import { advance } from './advance';
import { DUTIES, hold, layOutDuties, letGo, type Duty } from './duties';

export { advance } from './advance';
export { DUTIES, layOutDuties, hold, letGo } from './duties';

/** Steps that one worker moves at a time. */
const HANDS = 6;
/** A duty rests so many times as long as it took. */
const REST = 4;
const IDLE_MS = 150;
const TROUBLE_MS = 1_000;

/** Works until told to stop: moves steps with several hands and does its duties. What is in hand is ended first. */
export async function work(app: App, stop: AbortSignal): Promise<void> {
  await untilStopped(app, stop, 'laying out duties', async () => {
    await layOutDuties(app);
    return 'end';
  });
  await Promise.all([
    ...Array.from({ length: HANDS }, () =>
      untilStopped(app, stop, 'moving steps', async () => ((await advance(app)) ? 'again' : 'rest')),
    ),
    ...DUTIES.map((duty) => untilStopped(app, stop, duty.name, () => doDuty(app, duty))),
  ]);
}

async function doDuty(app: App, duty: Duty): Promise<'rest'> {
  const held = await hold(app, duty);
  if (!held) return 'rest';
  const began = app.clock.wall();
  try {
    await duty.run(app, held);
  } finally {
    // With a large fleet a duty takes longer, and then rests longer: never more than a fifth of the time goes to it.
    const rest = Math.max(duty.everyMs, REST * (app.clock.wall() - began));
    await letGo(app, { ...duty, everyMs: rest }, held);
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
