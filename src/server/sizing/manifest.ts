import type { Manifest } from '../manifest';
import { forgetSizing, notePeaks } from '.';
import { sizingRoutes } from './routes';

export const sizingRoom: Manifest = {
  room: 'sizing',
  tables: ['profile_need', 'session_peak'],
  routes: sizingRoutes,
  jobs: [{ name: 'peaks', everyMs: 20_000, run: notePeaks }],
  forgets: forgetSizing,
};
