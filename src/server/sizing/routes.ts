import { sizingEndpoints } from '../../contract';
import { ok, reads, writes } from '../http';
import { keepNeeds, readNeeds } from './needs';
import { readSizing } from './read';

export const sizingRoutes = [
  reads(sizingEndpoints.read, async ({ app }, scope) => ok(await readSizing(app, scope))),
  writes(
    sizingEndpoints.keepNeeds,
    ({ app, body }, scope) => keepNeeds(app, scope, body.needs),
    async (_made, { app }, scope) => ok(await readSizing(app, scope)),
    async (_ask, db, scope) => ({ needs: await readNeeds(db, scope) }),
  ),
];
