import type { HostDetail, VitalsTold } from '../../contract';
import type { CustomerScope } from '../access';
import type { App } from '../app';
import { hostOf } from '../environments';
import { notFound } from '../problem';
import { listSessions, pastSessions } from '../sessions';
import { signsOfHost } from '../signs';
import { trailOfName } from '../trail';

const MOST_SESSIONS = 1_000;
const MOST_BEFORE = 12;

/** One host: who is in, what it shows, what was last done with it. @throws Problem 404 */
export async function hostDetail(app: App, scope: CustomerScope, id: string): Promise<HostDetail> {
  const found = await hostOf(app.db, scope, id);
  if (!found) throw notFound('host');
  const { host, environment, site, siteName, provider } = found;
  const there = host.ref === null ? undefined : { provider, ref: host.ref };
  const [signs, sessions, before, recent] = await Promise.all([
    signsOfHost(app.db, scope, id),
    there ? listSessions(app.db, scope, { on: there, limit: MOST_SESSIONS }) : [],
    there ? pastSessions(app.db, scope, there, MOST_BEFORE) : [],
    trailOfName(app.db, scope, host.name),
  ]);
  return {
    host,
    environment,
    site,
    siteName,
    signs,
    sessions,
    before: before.map(({ host: _host, ...one }) => one),
    recent,
  };
}

/** What a host last said of itself, asked now; null: it does not run. @throws Problem 404; OutsideError */
export async function vitalsOf(app: App, scope: CustomerScope, id: string): Promise<VitalsTold | null> {
  const found = await hostOf(app.db, scope, id);
  if (!found) throw notFound('host');
  const { host, site } = found;
  if (host.ref === null) return null;
  const { port } = await app.providers.at(site);
  const beat = await port.beatOf(host.ref);
  if (!beat) return null;
  const { host: _ref, isUnwell: _unwell, ...vitals } = beat;
  return vitals;
}
