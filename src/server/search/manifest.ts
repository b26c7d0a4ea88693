import type { Manifest } from '../manifest';
import { searchRoutes } from './routes';

export const searchRoom: Manifest = {
  room: 'search',
  routes: searchRoutes,
};
