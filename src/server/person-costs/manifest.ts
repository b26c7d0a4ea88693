import type { Manifest } from '../manifest';
import { personCostRoutes } from './routes';

export const personCostsRoom: Manifest = {
  room: 'person-costs',
  routes: personCostRoutes,
};
