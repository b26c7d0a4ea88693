import type { Manifest } from '../manifest';
import { endAllowances, moveEach } from '.';
import { planRoutes } from './routes';

export const plansRoom: Manifest = {
  room: 'plans',
  tables: ['plan', 'plan_version', 'customer_plan', 'allowance'],
  routes: planRoutes,
  ends: endAllowances,
  parents: [moveEach],
};
