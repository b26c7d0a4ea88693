import type { Manifest } from '../manifest';
import { environmentRoutes } from './routes';

export const environmentsRoom: Manifest = {
  room: 'environments',
  tables: ['environment', 'resource'],
  routes: environmentRoutes,
};
