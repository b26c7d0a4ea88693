import { noticeEndpoints } from '../../contract';
import { ok, reads, writes } from '../http';
import { keepTarget, readTarget, tryTarget } from '.';

export const noticeRoutes = [
  reads(noticeEndpoints.read, async ({ app }, scope) => ok({ target: await readTarget(app.db, scope) })),
  writes(
    noticeEndpoints.keep,
    ({ app, body }, scope) => keepTarget(app, scope, body),
    async (_made, { app }, scope) => ok({ target: await readTarget(app.db, scope) }),
    async (_ask, db, scope) => ({ address: (await readTarget(db, scope))?.address ?? '' }),
  ),
  writes(
    noticeEndpoints.try,
    ({ app }, scope) => tryTarget(app, scope),
    (made) => ok(made),
  ),
];
