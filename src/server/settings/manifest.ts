import type { Manifest } from '../manifest';

export const settingsRoom: Manifest = {
  room: 'settings',
  tables: ['setting'],
};
