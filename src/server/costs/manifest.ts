import type { Manifest } from '../manifest';
import { costRoutes } from './routes';

export const costsRoom: Manifest = {
  room: 'costs',
  routes: costRoutes,
};
