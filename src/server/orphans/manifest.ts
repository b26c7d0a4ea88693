import type { Manifest } from '../manifest';
import { orphanRoutes } from './routes';

export const orphansRoom: Manifest = {
  room: 'orphans',
  routes: orphanRoutes,
};
