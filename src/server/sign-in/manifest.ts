import type { Manifest } from '../manifest';
import { SYSTEM } from '../access';
import { sealFactorsAnew } from '.';
import { signInRoutes } from './routes';

export const signInRoom: Manifest = {
  room: 'sign-in',
  tables: ['web_session', 'api_token', 'recovery_code', 'sign_in_tries'],
  alsoWrites: {
    operator: 'the second factor, and when somebody was last seen',
  },
  routes: signInRoutes,
  reencrypts: { 'second factors': (app) => sealFactorsAnew(app, SYSTEM) },
};
