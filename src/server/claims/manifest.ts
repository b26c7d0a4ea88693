import type { Manifest } from '../manifest';

export const claimsRoom: Manifest = {
  room: 'claims',
  tables: ['allocation', 'quota_claim'],
};
