import type { Manifest } from '../manifest';
import { doActs, forgetActs, forgetActsOf } from '.';
import { sessionActRoutes } from './routes';

export const sessionActsRoom: Manifest = {
  room: 'session-acts',
  tables: ['session_act'],
  routes: sessionActRoutes,
  jobs: [{ name: 'session acts', everyMs: 500, run: doActs }],
  sweeps: [forgetActs],
  forgets: forgetActsOf,
};
