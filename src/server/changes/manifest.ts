import type { Manifest } from '../manifest';
import { keepOverridesInForce } from '.';
import { changeRoutes } from './routes';

export const changesRoom: Manifest = {
  room: 'changes',
  alsoWrites: {
    environment: 'what is begun',
    resource: 'what is wanted of it',
  },
  routesOf: changeRoutes,
  jobs: [{ name: 'overrides', everyMs: 1_000, run: keepOverridesInForce }],
};
