import { MSP, type CustomerScope } from '../access';
import type { App } from '../app';
import { realmOf } from '../customers';
import { inTime, LATE, SCREEN_MS } from '../outside';
import { tryNameServers, tryRoute, type OutsideSays } from '../sites';

/**
 * Asks the customer's directory, and tries the way to it from where the customer's hosts would be. It may take a while:
 * never while holding a lock.
 */
export async function askOutside(app: App, scope: CustomerScope, site: string): Promise<OutsideSays> {
  const { id } = scope.customer;
  if (id === MSP.id) return { directory: NOT_NEEDED };
  const realm = await realmOf(app.db, scope);
  const [{ computers, ...directory }, route, nameServers] = await Promise.all([
    inTime<Awaited<ReturnType<App['directory']['check']>>>(app.directory.check(realm), SCREEN_MS, LATE),
    inTime(tryRoute(app, scope, site, realm), SCREEN_MS, LATE),
    inTime(tryNameServers(app, scope, site, realm), SCREEN_MS, undefined),
  ]);
  return { directory, route, nameServers, computers, askedAt: app.clock.now() };
}

const NOT_NEEDED = { worked: true, says: 'its own network is not joined with any' };

/** What reads only what stands asks nothing outside. */
export const NOT_ASKED: OutsideSays = { directory: { worked: true, says: '' } };
