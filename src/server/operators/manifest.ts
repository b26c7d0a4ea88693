import type { Manifest } from '../manifest';
import { mailInvites } from '.';
import { operatorRoutes } from './routes';

export const operatorsRoom: Manifest = {
  room: 'operators',
  tables: ['operator', 'operator_customer', 'invite', 'outside_group', 'outside_group_customer'],
  alsoWrites: {
    web_session: 'ends the sign-ins of who may come in no more',
    api_token: 'ends their tokens',
  },
  routes: operatorRoutes,
  jobs: [{ name: 'invitations', everyMs: 2_000, run: mailInvites }],
};
