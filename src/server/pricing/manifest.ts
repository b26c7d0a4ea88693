import type { Manifest } from '../manifest';
import { pricingRoutes } from './routes';

export const pricingRoom: Manifest = {
  room: 'pricing',
  tables: ['rate', 'rate_card'],
  routes: pricingRoutes,
};
