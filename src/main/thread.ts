import { parentPort, workerData } from 'node:worker_threads';
import { Problem } from '../server/problem';
import { THREAD_TASKS } from '../server/thread-tasks';
import type { ThreadAnswer, ThreadAsk } from '../server/threads';
import { sealPrototypes } from './prototypes';

/* A thread that does one task and ends. */

async function answer({ name, input }: ThreadAsk): Promise<ThreadAnswer> {
  const load = Object.hasOwn(THREAD_TASKS, name) ? THREAD_TASKS[name] : undefined;
  if (!load) return { broke: 'there is no such task' };
  const task = await load();
  try {
    // Whoever asked gave the task's own input.
    return { output: task.run(input as never) };
  } catch (error) {
    if (!(error instanceof Problem)) return { broke: error instanceof Error ? error.message : String(error) };
    const { status, code, detail, more } = error;
    return { problem: { status, code, detail, more } };
  }
}

sealPrototypes();
parentPort?.postMessage(await answer(workerData as ThreadAsk));
