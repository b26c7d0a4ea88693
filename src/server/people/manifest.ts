import type { Manifest } from '../manifest';
import { forgetPeople } from '.';
import { peopleRoutes } from './routes';

export const peopleRoom: Manifest = {
  room: 'people',
  tables: ['person', 'directory_group', 'group_member'],
  routes: peopleRoutes,
  forgets: forgetPeople,
};
