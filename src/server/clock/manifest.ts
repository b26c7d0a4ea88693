import type { Manifest } from '../manifest';
import { clockRoutes } from './routes';

export const clockRoom: Manifest = {
  room: 'clock',
  routes: clockRoutes,
};
