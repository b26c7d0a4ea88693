import type { Manifest } from '../manifest';
import { keepShelves } from '.';
import { shelfRoutes } from './routes';

export const shelfRoom: Manifest = {
  room: 'shelf',
  alsoWrites: {
    environment: 'to whom a ready host goes',
    resource: 'to whom a ready host goes',
  },
  routes: shelfRoutes,
  jobs: [{ name: 'shelf', everyMs: 3_000, run: keepShelves }],
};
