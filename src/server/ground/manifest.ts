import type { Manifest } from '../manifest';
import { groundRoutes } from './routes';

export const groundRoom: Manifest = {
  room: 'ground',
  routes: groundRoutes,
};
