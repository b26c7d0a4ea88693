import type { Manifest } from '../manifest';
import { networkRoutes } from './routes';

export const networksRoom: Manifest = {
  room: 'networks',
  routes: networkRoutes,
};
