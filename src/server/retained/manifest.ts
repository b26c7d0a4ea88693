import type { Manifest } from '../manifest';
import { dropOverdue } from './drop';
import { retainedRoutes } from './routes';

export const retainedRoom: Manifest = {
  room: 'retained',
  routes: retainedRoutes,
  jobs: [{ name: 'retained', everyMs: 300_000, run: dropOverdue }],
};
