import { existsSync } from 'node:fs';
import { resolve } from 'node:path';
import { Worker } from 'node:worker_threads';
import pLimit from 'p-limit';
import { Problem } from '../problem';

/**
 * Work that costs CPU by what somebody sent: it runs in a thread of its own, which is ended when it takes too long, so that
 * nobody else's request waits for it. Input and result are copied, so both are plain data.
 */
export interface ThreadTask<Input, Output> {
  readonly name: string;
  /** @throws Problem what the sender gets */
  readonly run: (input: Input) => Output;
  /** What the sender gets when it takes too long or too much memory. */
  readonly tooMuch: () => Problem;
}

/** What a thread answers with. */
export type ThreadAnswer =
  | { readonly output: unknown }
  | { readonly problem: Pick<Problem, 'status' | 'code' | 'detail' | 'more'> }
  | { readonly broke: string };

export interface ThreadAsk {
  readonly name: string;
  readonly input: unknown;
}

const MOST_MS = 10_000;
const MOST_MB = 256;
/** At a time; and so many wait. */
const THREADS = 2;
const MOST_WAITING = 20;
const gate = pLimit(THREADS);

/** @throws Problem what the task refuses, what it says when it takes too much, 503 when too many wait */
export async function inThread<Input, Output>(
  task: ThreadTask<Input, Output>,
  input: Input,
): Promise<Output> {
  if (gate.pendingCount >= MOST_WAITING)
    throw new Problem(503, 'busy', 'Too much of this is being read at once. Send it again in a minute.', {
      headers: { 'retry-after': '60' },
    });
  const answer = await gate(() => answered({ name: task.name, input }));
  if (answer === undefined) throw task.tooMuch();
  if ('problem' in answer) {
    const { status, code, detail, more } = answer.problem;
    throw new Problem(status, code, detail, more);
  }
  if ('broke' in answer) throw new Error(`${task.name}: ${answer.broke}`);
  // The task with this name made it.
  return answer.output as Output;
}

/** The built program; from the sources where nothing is built. */
function entry(): { readonly file: string; readonly execArgv: string[] } {
  const built = resolve('dist/node/thread.mjs');
  return existsSync(built)
    ? { file: built, execArgv: [] }
    : { file: resolve('src/main/thread.ts'), execArgv: ['--import', 'tsx'] };
}

/** Undefined: it took too much time or memory, and was ended. */
function answered(ask: ThreadAsk): Promise<ThreadAnswer | undefined> {
  const { file, execArgv } = entry();
  const thread = new Worker(file, {
    workerData: ask,
    execArgv,
    // It needs nothing of ours, our secrets least of all.
    env: {},
    resourceLimits: { maxOldGenerationSizeMb: MOST_MB },
  });
  return new Promise<ThreadAnswer | undefined>((settle, reject) => {
    const timer = setTimeout(() => settle(undefined), MOST_MS);
    thread.once('message', settle);
    thread.once('error', (error: Error & { code?: string }) =>
      error.code === 'ERR_WORKER_OUT_OF_MEMORY' ? settle(undefined) : reject(error),
    );
    thread.once('exit', () => {
      clearTimeout(timer);
      settle(undefined);
    });
  }).finally(() => void thread.terminate());
}
