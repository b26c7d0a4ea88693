import type { Manifest } from '../manifest';
import { forgetOwners, keepDesktops } from '.';

export const desktopsRoom: Manifest = {
  room: 'desktops',
  alsoWrites: {
    resource: 'that nobody’s name stays, once data are deleted',
  },
  jobs: [{ name: 'desktops', everyMs: 5_000, run: keepDesktops }],
  forgets: forgetOwners,
};
