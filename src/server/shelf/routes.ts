import { shelfEndpoints } from '../../contract';
import { ok, reads } from '../http';
import { listShelves } from '.';

export const shelfRoutes = [
  reads(shelfEndpoints.list, async ({ app }, scope) => ok(await listShelves(app, scope))),
];
