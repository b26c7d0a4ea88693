import { watchEndpoints } from '../../contract';
import { ok, reads } from '../http';
import { search } from '.';

export const searchRoutes = [
  reads(watchEndpoints.search, async ({ app, query }, scope) =>
    ok({ found: await search(app.db, scope, query.text) }),
  ),
];
