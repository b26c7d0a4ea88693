import { MINUTE } from '../../core/calendar';
import { sessionEndpoints, type Page, type Session, type SessionQuery } from '../../contract';
import type { CustomerScope, Scope } from '../access';
import type { App } from '../app';
import { ok, paged, reads } from '../http';
import { countSessions, listSessions, sessionCursor } from '.';

const pageOfSessions = (
  app: App,
  scope: Scope | CustomerScope,
  { idleFor, ...query }: SessionQuery,
): Promise<Page<Session>> =>
  paged(
    query.limit,
    (limit) =>
      listSessions(app.db, scope, {
        ...query,
        limit,
        ...(idleFor === undefined ? {} : { idleSince: app.clock.now() - idleFor * MINUTE }),
      }),
    sessionCursor,
  );

export const sessionRoutes = [
  reads(sessionEndpoints.list, async ({ app, query }, scope) => ok(await pageOfSessions(app, scope, query))),
  reads(sessionEndpoints.count, async ({ app }, scope) =>
    ok({ customers: await countSessions(app.db, scope) }),
  ),
  reads(sessionEndpoints.listInside, async ({ app, query }, scope) =>
    ok(await pageOfSessions(app, scope, query)),
  ),
];
