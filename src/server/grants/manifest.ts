import type { Manifest } from '../manifest';
import { giveBackSeats, keepSeats } from '.';
import { grantRoutes } from './routes';

export const grantsRoom: Manifest = {
  room: 'grants',
  tables: ['desk_rule', 'licence_seat', 'publication_reach'],
  routes: grantRoutes,
  jobs: [{ name: 'seats', everyMs: 2_000, run: keepSeats }],
  sweeps: [giveBackSeats],
};
