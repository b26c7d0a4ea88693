import type { App } from './app';
import { whoseDesk } from './desk/who';
import { makeApi, openApi, type Route } from './http';
import { routesOf } from './rooms';
import { whoAsks } from './sign-in';

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
