import type { HostDetail, VitalsTold } from '../../contract';
import type { CustomerScope } from '../access';
import type { App } from '../app';
import { sql } from '../db';
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
  const { site, ...host } = found;
  const about = await app.db.row<{ environment: string; siteName: string; provider: string }>(
    sql`SELECT e.name AS environment, s.name AS siteName, s.provider_code AS provider
        FROM environment e JOIN site s ON s.code = ${site}
        WHERE e.customer_id = ${scope.customer.id} AND e.id = ${host.environmentId}`,
  );
  if (!about) throw notFound('host');
  const there = host.ref === null ? undefined : { provider: about.provider, ref: host.ref };
  const [signs, sessions, before, recent] = await Promise.all([
    signsOfHost(app.db, scope, id),
    there ? listSessions(app.db, scope, { on: there, limit: MOST_SESSIONS }) : [],
    there ? pastSessions(app.db, scope, there, MOST_BEFORE) : [],
    trailOfName(app.db, scope, host.name),
  ]);
  return {
    host,
    environment: about.environment,
    site,
    siteName: about.siteName,
    signs,
    sessions,
    before: before.map(({ host: _host, ...one }) => one),
    recent: recent.map(({ id: entry, at, actor, action, subject, run }) => ({
      id: entry,
      at,
      actor,
      action,
      subject,
      run,
    })),
  };
}

/** What a host last said of itself, asked now; null: it does not run. @throws Problem 404; OutsideError */
export async function vitalsOf(app: App, scope: CustomerScope, id: string): Promise<VitalsTold | null> {
  const host = await hostOf(app.db, scope, id);
  if (!host) throw notFound('host');
  if (host.ref === null) return null;
  const { port } = await app.providers.at(host.site);
  const beat = await port.beatOf(host.ref);
  if (!beat) return null;
  const { host: _ref, isUnwell: _unwell, ...vitals } = beat;
  return vitals;
}
