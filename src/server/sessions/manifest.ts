import type { Manifest } from '../manifest';
import { sessionRoutes } from './routes';

export const sessionsRoom: Manifest = {
  room: 'sessions',
  routes: sessionRoutes,
};
