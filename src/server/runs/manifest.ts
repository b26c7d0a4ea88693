import type { Manifest } from '../manifest';
import { forgetWhose, learnDurations, turnWindows } from '.';
import { runRoutes } from './routes';

export const runsRoom: Manifest = {
  room: 'runs',
  tables: ['run', 'step', 'step_need', 'step_time'],
  alsoWrites: {
    resource: 'what a run leaves undone',
  },
  routes: runRoutes,
  jobs: [
    { name: 'windows', everyMs: 2_000, run: turnWindows },
    { name: 'durations', everyMs: 300_000, run: learnDurations },
  ],
  forgets: forgetWhose,
};
