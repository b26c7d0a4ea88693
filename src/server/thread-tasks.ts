import { certificateTask } from './certificates';
import { customersFileTask, faultPlacesTask } from './customers';
import { templateFileTask } from './template-files';
import type { ThreadTask } from './threads';

/** Everything that is done in a thread of its own. */
export const THREAD_TASKS: readonly ThreadTask<never, unknown>[] = [
  certificateTask,
  customersFileTask,
  faultPlacesTask,
  templateFileTask,
];
