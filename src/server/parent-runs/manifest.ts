import type { Manifest } from '../manifest';
import { scopeOfOperator } from '../sign-in';
import { carryOnParents, type ParentWork } from '.';
import { parentRunRoutes } from './routes';

/** What parent runs are carried on with: the kinds of every room. */
export const parentWork = (rooms: readonly Manifest[]): ParentWork => ({
  kinds: rooms.flatMap(({ parents = [] }) => parents),
  scopeOf: ({ db, clock }, actorId) => scopeOfOperator(db, actorId, clock.wall()),
});

export const parentRunsRoom: Manifest = {
  room: 'parent-runs',
  tables: ['parent_run', 'parent_part'],
  routes: parentRunRoutes,
  jobs: [
    {
      name: 'parents',
      everyMs: 1_000,
      run: (app, { rooms, stop }) => carryOnParents(app, parentWork(rooms), stop),
    },
  ],
};
