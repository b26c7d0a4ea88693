import type { Manifest } from '../manifest';
import { finishLeaving, forgetGone } from '.';
import { retireEach } from './retire-each';
import { lifeRoutes } from './routes';

export const lifeRoom: Manifest = {
  room: 'life',
  routes: lifeRoutes,
  jobs: [
    { name: 'leaving', everyMs: 5_000, run: finishLeaving },
    { name: 'retention', everyMs: 300_000, run: forgetGone },
  ],
  parents: [retireEach],
};
