import type { App } from './app';
import { approvalRoutes } from './approval/routes';
import type { Catalogue } from './catalogue';
import { certificateRoutes } from './certificates/routes';
import { changeRoutes } from './changes/routes';
import { clockRoutes } from './clock/routes';
import { costRoutes } from './costs/routes';
import { customerRoutes } from './customers/routes';
import { directoryRoutes } from './directory-link/routes';
import { environmentRoutes } from './environments/routes';
import { groundRoutes } from './ground/routes';
import { makeApi, openApi, type Route } from './http';
import { imageRoutes } from './images/routes';
import { lifeRoutes } from './life/routes';
import { liveRoutes } from './live/routes';
import { noticeRoutes } from './notices/routes';
import { networkRoutes } from './networks/routes';
import { operatorRoutes } from './operators/routes';
import { orphanRoutes } from './orphans/routes';
import { grantRoutes } from './grants/routes';
import { hostRoutes } from './hosts/routes';
import { whoseDesk } from './desk/who';
import { deskRoutes } from './desk/routes';
import { lookAlongRoutes } from './look-along/routes';
import { personCostRoutes } from './person-costs/routes';
import { sessionActRoutes } from './session-acts/routes';
import { parentRunRoutes } from './parent-runs/routes';
import { peopleRoutes } from './people/routes';
import { planRoutes } from './plans/routes';
import { pricingRoutes } from './pricing/routes';
import { messageTextRoutes } from './message-texts/routes';
import { providerRoutes } from './providers/routes';
import { runRoutes } from './runs/routes';
import { savedViewRoutes } from './saved-views/routes';
import { savedStepsRoutes } from './saved-steps/routes';
import { searchRoutes } from './search/routes';
import { sessionRoutes } from './sessions/routes';
import { whoAsks } from './sign-in';
import { shelfRoutes } from './shelf/routes';
import { signInRoutes } from './sign-in/routes';
import { siteRoutes } from './sites/routes';
import { recipeSecretRoutes } from './recipe-secrets/routes';
import { sizingRoutes } from './sizing/routes';
import { templateFileRoutes } from './template-files/routes';
import { templateRoutes } from './templates/routes';
import { trailRoutes } from './trail/routes';
import { watchRoutes } from './watch/routes';

/** Everything that the API serves: what each room has, and two routes for each change of the catalogue. */
export const routesOf = (catalogue: Catalogue): readonly Route[] => [
  ...signInRoutes,
  ...watchRoutes,
  ...searchRoutes,
  ...savedViewRoutes,
  ...liveRoutes,
  ...customerRoutes,
  ...lifeRoutes,
  ...certificateRoutes,
  ...peopleRoutes,
  ...grantRoutes,
  ...hostRoutes,
  ...sessionActRoutes,
  ...personCostRoutes,
  ...lookAlongRoutes,
  ...messageTextRoutes,
  ...deskRoutes,
  ...directoryRoutes,
  ...approvalRoutes,
  ...changeRoutes(catalogue),
  ...environmentRoutes,
  ...runRoutes,
  ...parentRunRoutes,
  ...sessionRoutes,
  ...siteRoutes,
  ...providerRoutes,
  ...groundRoutes,
  ...networkRoutes,
  ...noticeRoutes,
  ...shelfRoutes,
  ...orphanRoutes,
  ...imageRoutes,
  ...recipeSecretRoutes,
  ...savedStepsRoutes,
  ...sizingRoutes,
  ...templateFileRoutes,
  ...templateRoutes,
  ...planRoutes,
  ...pricingRoutes,
  ...operatorRoutes,
  ...costRoutes,
  ...trailRoutes,
  ...clockRoutes,
];

/** The API of a process. */
export interface Laager {
  /** Answers a request under /api/v1. Never throws: whatever goes wrong becomes problem details. */
  answer(request: Request): Promise<Response>;
  /** The OpenAPI 3.1 document of everything that it serves. */
  openApi(): Record<string, unknown>;
}

/** @param more routes that a process has beyond the product's own */
export function apiOf(app: App, more: readonly Route[] = []): Laager {
  const routes = [...routesOf(app.catalogue), ...more];
  const api = makeApi(app, routes, { operator: whoAsks, person: whoseDesk });
  return { answer: api, openApi: () => openApi(routes) };
}
