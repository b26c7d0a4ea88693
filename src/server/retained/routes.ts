import { retainedEndpoints } from '../../contract';
import { ok, reads } from '../http';
import { listRetained } from './read';

export const retainedRoutes = [
  reads(retainedEndpoints.list, async ({ app }, scope) => ok({ entries: await listRetained(app, scope) })),
];
