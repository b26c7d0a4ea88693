import type { Manifest } from '../manifest';
import { forgetKept, sealKeptAnew } from '.';

export const writeRoom: Manifest = {
  room: 'write',
  tables: ['idempotency'],
  alsoWrites: {
    summary: 'that a customer’s figures are to be taken anew',
  },
  sweeps: [forgetKept],
  reencrypts: { 'kept answers': sealKeptAnew },
};
