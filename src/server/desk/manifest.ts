import type { Manifest } from '../manifest';
import { SYSTEM } from '../access';
import { forgetArrivals, forgetIdentity, forgetMessages, mailAsked, sealIdentitiesAnew } from '.';
import { deskRoutes } from './routes';

export const deskRoom: Manifest = {
  room: 'desk',
  tables: [
    'arrival',
    'desk_ask',
    'desk_favourite',
    'desk_identity',
    'desk_link',
    'desk_message',
    'desk_session',
  ],
  routes: deskRoutes,
  jobs: [{ name: 'desk links', everyMs: 500, run: mailAsked }],
  sweeps: [forgetArrivals, forgetMessages],
  ends: forgetIdentity,
  reencrypts: { 'secrets of people’s identity services': (app) => sealIdentitiesAnew(app, SYSTEM) },
};
