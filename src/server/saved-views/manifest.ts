import type { Manifest } from '../manifest';
import { savedViewRoutes } from './routes';

export const savedViewsRoom: Manifest = {
  room: 'saved-views',
  tables: ['saved_view'],
  routes: savedViewRoutes,
};
