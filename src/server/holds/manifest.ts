import type { Manifest } from '../manifest';
import { endHolds, forgetHolds } from '.';

export const holdsRoom: Manifest = {
  room: 'holds',
  tables: ['held_proposal'],
  jobs: [{ name: 'holds', everyMs: 2_000, run: endHolds }],
  forgets: forgetHolds,
};
