import type { Manifest } from '../manifest';
import { siteRoutes } from './routes';

export const sitesRoom: Manifest = {
  room: 'sites',
  tables: ['address_block', 'address_range', 'kept_clear'],
  routes: siteRoutes,
};
