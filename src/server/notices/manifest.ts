import type { Manifest } from '../manifest';
import { SYSTEM } from '../access';
import { sealTargetAnew, tellOutside } from '.';
import { noticeRoutes } from './routes';

export const noticesRoom: Manifest = {
  room: 'notices',
  tables: ['notice', 'notice_look', 'notice_target'],
  routes: noticeRoutes,
  jobs: [{ name: 'notices', everyMs: 3_000, run: tellOutside }],
  reencrypts: { 'the secret of notices': (app) => sealTargetAnew(app, SYSTEM) },
};
