import type { Manifest } from '../manifest';
import { beginEach } from '.';
import { templateFileRoutes } from './routes';

export const templateFilesRoom: Manifest = {
  room: 'template-files',
  routes: templateFileRoutes,
  parents: [beginEach],
};
