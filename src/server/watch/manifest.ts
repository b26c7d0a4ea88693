import type { Manifest } from '../manifest';
import { forgetMarks, keepSummaries } from '.';
import { watchRoutes } from './routes';

export const watchRoom: Manifest = {
  room: 'watch',
  tables: ['look_mark', 'summary'],
  routes: watchRoutes,
  jobs: [{ name: 'summary', everyMs: 700, run: keepSummaries }],
  sweeps: [forgetMarks],
};
