import type { Route } from './route';
import { clockRoutes } from './routes/clock';
import { customerRoutes } from './routes/customers';
import { environmentRoutes } from './routes/environments';
import { moneyRoutes } from './routes/money';
import { runRoutes } from './routes/runs';
import { sessionRoutes } from './routes/session';
import { watchingRoutes } from './routes/watching';

/** Everything that the API serves. */
export const ROUTES: readonly Route[] = [
  ...sessionRoutes,
  ...watchingRoutes,
  ...customerRoutes,
  ...environmentRoutes,
  ...runRoutes,
  ...moneyRoutes,
  ...clockRoutes,
];
