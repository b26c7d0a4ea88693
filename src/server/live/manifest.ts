import type { Manifest } from '../manifest';
import { forgetEvents } from '.';
import { liveRoutes } from './routes';

export const liveRoom: Manifest = {
  room: 'live',
  tables: ['live_event'],
  routes: liveRoutes,
  sweeps: [forgetEvents],
};
