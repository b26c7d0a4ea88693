import type { Environment, Host } from '../../contract';
import type { CustomerScope } from '../access';
import type { App } from '../app';
import type { Connection } from '../db';
import { NOT_ASKED, readSome, type Some } from '../facts';
import { notFound } from '../problem';
import { offersAt } from '../sites';
import { listHosts } from './hosts';

/** SQL: whether the run that makes environment `e`, its first, is in one of some states. */
const MADE_BY = (states: string): string =>
  `(SELECT r.state FROM run r WHERE r.customer_id = e.customer_id AND r.environment_id = e.id ORDER BY r.id LIMIT 1)
     IN (${states})`;

export const ENVIRONMENT = `SELECT e.id, e.name, e.site_code AS site, s.name AS siteName, IFNULL(e.template_code, '') AS template,
    IFNULL(e.revision, 0) AS revision,
    CASE WHEN e.retired_at IS NOT NULL THEN 'retired' WHEN e.wanted = 'retired' THEN 'leaving'
         WHEN ${MADE_BY("'running','stopping'")} THEN 'under way'
         WHEN ${MADE_BY("'stopped'")} THEN 'unfinished' ELSE 'serving' END AS state,
    e.people, e.holds, e.created_at AS createdAt, e.retired_at AS retiredAt, e.version,
    (SELECT COUNT(*) FROM resource h WHERE h.customer_id = e.customer_id AND h.environment_id = e.id AND h.kind = 'host'
      AND h.returned_at IS NULL AND h.wanted) AS hosts
  FROM environment e JOIN site s ON s.code = e.site_code`;

/** An environment as it stands: read once for all that is told of it. */
export interface Standing {
  readonly row: Omit<Environment, 'arcs'>;
  readonly facts: Some<'known' | 'present' | 'environment' | 'template'>;
  readonly hosts: readonly Host[];
  readonly offers: Awaited<ReturnType<typeof offersAt>>;
}

/** So many hosts are read for a page of an environment. */
const MOST_HOSTS = 10_000;

/** @throws Problem 404 when the customer has no such environment */
export async function standingOf(app: App, scope: CustomerScope, id: string): Promise<Standing> {
  const row = await environmentRow(app.db, scope, id);
  const subject = { site: row.site, environment: id };
  const [facts, hosts, offers] = await Promise.all([
    readSome(app, app.db, scope, subject, ['known', 'present', 'environment', 'template'], NOT_ASKED),
    listHosts(app.db, scope, id, { limit: MOST_HOSTS }),
    offersAt(app.db, row.site),
  ]);
  return { row, facts, hosts, offers };
}

async function environmentRow(
  db: Connection,
  { customer }: CustomerScope,
  id: string,
): Promise<Standing['row']> {
  const row = await db.row<Standing['row']>(`${ENVIRONMENT} WHERE e.customer_id = ? AND e.id = ?`, [
    customer.id,
    id,
  ]);
  if (!row) throw notFound('environment');
  return row;
}

/** Whether the customer has such an environment. @throws Problem 404 */
export const requireEnvironment = async (db: Connection, scope: CustomerScope, id: string): Promise<void> =>
  void (await environmentRow(db, scope, id));
