import type { Catalogue } from '../catalogue';
import type { Route } from './route';
import { changeRoutes } from './routes/changes';
import { clockRoutes } from './routes/clock';
import { customerRoutes } from './routes/customers';
import { environmentRoutes } from './routes/environments';
import { factsRoutes } from './routes/facts';
import { moneyRoutes } from './routes/money';
import { offersRoutes } from './routes/offers';
import { operatorsRoutes } from './routes/operators';
import { runRoutes } from './routes/runs';
import { sessionRoutes } from './routes/session';
import { sessionsRoutes } from './routes/sessions';
import { sitesRoutes } from './routes/sites';
import { templatesRoutes } from './routes/templates';
import { trailRoutes } from './routes/trail';
import { watchRoutes } from './routes/watch';

/** Everything that the API serves: what each room has, and two routes for each change of the catalogue. */
export const routesOf = (catalogue: Catalogue): readonly Route[] => [
  ...sessionRoutes,
  ...watchRoutes,
  ...customerRoutes,
  ...factsRoutes,
  ...changeRoutes(catalogue),
  ...environmentRoutes,
  ...runRoutes,
  ...sessionsRoutes,
  ...sitesRoutes,
  ...templatesRoutes,
  ...offersRoutes,
  ...operatorsRoutes,
  ...moneyRoutes,
  ...trailRoutes,
  ...clockRoutes,
];
