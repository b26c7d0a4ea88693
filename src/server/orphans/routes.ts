import { orphanEndpoints } from '../../contract';
import { ok, reads } from '../http';
import { listOrphans } from '.';

export const orphanRoutes = [
  reads(orphanEndpoints.list, async ({ app }, scope) => ok({ orphans: await listOrphans(app, scope) })),
];
