import { providerEndpoints } from '../../contract';
import { ok, reads, writes } from '../http';
import { connectProvider, getProvider, listProviders } from './service';
import { keptConnection } from './store';
import { tryConnection } from './tries';

export const providerRoutes = [
  reads(providerEndpoints.list, async ({ app }) => ok({ providers: await listProviders(app.db) })),
  reads(providerEndpoints.try, async ({ app, body }) => ok(await tryConnection(app, body))),
  writes(
    providerEndpoints.connect,
    async ({ app, params, body }, scope) => {
      await connectProvider(app, scope, { code: params.provider, ...body });
    },
    async (_made, { app, params }) => ok(await getProvider(app.db, params.provider)),
    ({ params }, db) => keptConnection(db, params.provider),
  ),
];
