import { noticeEndpoints } from '../../contract';
import { ok, reads, writes } from '../http';
import { keepTarget, readTarget, refuseFewer, tryTarget } from '.';

export const noticeRoutes = [
  reads(noticeEndpoints.read, async ({ app }, scope) => ok({ target: await readTarget(app.db, scope) })),
  writes(
    noticeEndpoints.keep,
    ({ app, body }, scope) => keepTarget(app, scope, body),
    async (_made, { app }, scope) => ok({ target: await readTarget(app.db, scope) }),
    async (_ask, db, scope) => ({ address: (await readTarget(db, scope))?.address ?? '' }),
  ),
  reads(noticeEndpoints.try, async ({ app }, scope) => {
    refuseFewer(scope);
    return ok(await tryTarget(app));
  }),
];
