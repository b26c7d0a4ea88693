import type { Manifest } from '../manifest';
import { customerRoutes } from './routes';

export const customersRoom: Manifest = {
  room: 'customers',
  tables: ['customer', 'customer_draft'],
  routes: customerRoutes,
};
