import { AsyncLocalStorage } from 'node:async_hooks';

/** How long something waited for systems outside. */
interface Waiting {
  ms: number;
}

const current = new AsyncLocalStorage<Waiting>();

/** Does something, and tells how long it took without the waiting for systems outside. Milliseconds of the wall. */
export async function workTime(work: () => Promise<void>): Promise<number> {
  const waiting: Waiting = { ms: 0 };
  const began = performance.now();
  await current.run(waiting, work);
  return Math.max(0, performance.now() - began - waiting.ms);
}

/** Waits for a system outside. */
export async function waitOutside<Answer>(ask: () => Promise<Answer>): Promise<Answer> {
  const began = performance.now();
  try {
    return await ask();
  } finally {
    const waiting = current.getStore();
    if (waiting) waiting.ms += performance.now() - began;
  }
}
