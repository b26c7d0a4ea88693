import type { Manifest } from '../manifest';
import { SYSTEM } from '../access';
import { followDirectories, forgetLink, sealLinksAnew } from '.';
import { directoryRoutes } from './routes';

export const directoryLinkRoom: Manifest = {
  room: 'directory-link',
  tables: ['directory_link', 'directory_page', 'pushed_entry'],
  routes: directoryRoutes,
  jobs: [
    {
      name: 'directories',
      everyMs: 500,
      run: (app, { stop }) => followDirectories(app, stop),
      restsItself: true,
    },
  ],
  ends: forgetLink,
  reencrypts: { 'secrets of directories': (app) => sealLinksAnew(app, SYSTEM) },
};
