import type { ThreadTask } from './threads';

type Task = ThreadTask<never, unknown>;

/**
 * Everything that is done in a thread of its own, by its name, from the rooms' `thread.ts`. Each is loaded alone: a thread
 * that loaded all of them would take a second to begin.
 */
export const THREAD_TASKS: Readonly<Record<string, () => Promise<Task>>> = {
  'read a certificate': async () => (await import('./certificates/thread')).certificateTask,
  'read a file of customers': async () => (await import('./customers/thread')).customersFileTask,
  'find faults in a file': async () => (await import('./customers/thread')).faultPlacesTask,
  'read a file of templates': async () => (await import('./template-files/thread')).templateFileTask,
};
