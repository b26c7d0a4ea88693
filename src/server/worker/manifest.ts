import type { Manifest } from '../manifest';

export const workerRoom: Manifest = {
  room: 'worker',
  tables: ['job', 'step_output'],
  alsoWrites: {
    run: 'how far it has come',
    step: 'who has it, and what came of it',
    resource: 'what a step has made of it',
  },
};
