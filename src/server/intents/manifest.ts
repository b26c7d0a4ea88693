import type { Manifest } from '../manifest';

export const intentsRoom: Manifest = {
  room: 'intents',
  tables: ['intent'],
};
