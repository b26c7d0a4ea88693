import type { Manifest } from '../manifest';
import { atEach } from '../providers';
import { forgetSigns, readSigns } from '.';

const SIGNS_MS = 5_000;

export const signsRoom: Manifest = {
  room: 'signs',
  tables: ['sign'],
  jobs: [
    {
      name: 'signs',
      everyMs: SIGNS_MS,
      run: (app) => atEach(app, SIGNS_MS, (provider) => readSigns(app, provider)),
    },
  ],
  sweeps: [forgetSigns],
};
