import type { Manifest } from '../manifest';
import { followLooks, forgetLooks, forgetLooksOf } from '.';
import { lookAlongRoutes } from './routes';

export const lookAlongRoom: Manifest = {
  room: 'look-along',
  tables: ['look_along'],
  routes: lookAlongRoutes,
  jobs: [{ name: 'looks along', everyMs: 15_000, run: followLooks }],
  sweeps: [forgetLooks],
  forgets: forgetLooksOf,
};
