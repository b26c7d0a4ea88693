import type { Route } from './route';
import { clockRoutes } from './routes/clock';
import { customerRoutes } from './routes/customers';
import { environmentRoutes } from './routes/environments';
import { groundRoutes } from './routes/ground';
import { moneyRoutes } from './routes/money';
import { provisionRoutes } from './routes/provision';
import { retireRoutes } from './routes/retire';
import { runRoutes } from './routes/runs';
import { serveRoutes } from './routes/serve';
import { sessionRoutes } from './routes/session';
import { trailRoutes } from './routes/trail';
import { watchRoutes } from './routes/watch';

/** Everything that the API serves. */
export const ROUTES: readonly Route[] = [
  ...sessionRoutes,
  ...watchRoutes,
  ...customerRoutes,
  ...provisionRoutes,
  ...environmentRoutes,
  ...retireRoutes,
  ...runRoutes,
  ...serveRoutes,
  ...groundRoutes,
  ...moneyRoutes,
  ...trailRoutes,
  ...clockRoutes,
];
