import { savedViewEndpoints } from '../../contract';
import { nothing, ok, reads, writes } from '../http';
import { dropView, keepView, savedViews } from '.';

export const savedViewRoutes = [
  reads(savedViewEndpoints.list, async ({ app, query }, scope) =>
    ok({ views: await savedViews(app.db, scope, query.page) }),
  ),
  writes(
    savedViewEndpoints.keep,
    ({ app, body }, scope) => keepView(app, scope, body),
    async (_made, { app, body }, scope) => ok({ views: await savedViews(app.db, scope, body.page) }),
  ),
  writes(
    savedViewEndpoints.drop,
    ({ app, query }, scope) => dropView(app, scope, query.page, query.name),
    () => nothing(),
  ),
];
