import type { Manifest } from '../manifest';
import { forgetTemplates } from '.';
import { templateRoutes } from './routes';

export const templatesRoom: Manifest = {
  room: 'templates',
  tables: ['template', 'template_revision'],
  routes: templateRoutes,
  forgets: forgetTemplates,
};
