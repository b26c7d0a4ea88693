import type { Manifest } from '../manifest';
import { trailRoutes } from './routes';

export const trailRoom: Manifest = {
  room: 'trail',
  tables: ['trail'],
  routes: trailRoutes,
};
