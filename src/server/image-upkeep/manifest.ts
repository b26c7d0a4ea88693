import type { Manifest } from '../manifest';
import { endMachines, refreshImages } from '.';

export const imageUpkeepRoom: Manifest = {
  room: 'image-upkeep',
  jobs: [
    { name: 'machines', everyMs: 3_000, run: endMachines },
    { name: 'refresh', everyMs: 60_000, run: refreshImages },
  ],
};
