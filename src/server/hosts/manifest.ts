import type { Manifest } from '../manifest';
import { hostRoutes } from './routes';

export const hostsRoom: Manifest = {
  room: 'hosts',
  routes: hostRoutes,
};
