import type { Manifest } from '../manifest';
import { approvalRoutes } from './routes';

export const approvalRoom: Manifest = {
  room: 'approval',
  routes: approvalRoutes,
};
