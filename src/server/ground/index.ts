import type { GroundChangeEntry, ProviderPricesView } from '../../contract';
import { isWorse, type GroundChangeKind } from '../../core/ground';
import { reachable, type Scope } from '../access';
import type { App } from '../app';
import { sql, type Connection } from '../db';
import { notFound } from '../problem';
import { noteSeen, pricesView, type Standing } from '../providers';
import { write } from '../write';

const MOST = 200;

interface Stored {
  readonly id: string;
  readonly site: string;
  readonly siteName: string;
  readonly kind: GroundChangeKind;
  readonly subject: string;
  readonly before: string;
  readonly after: string;
  readonly at: number;
}

interface Touched {
  readonly site: string;
  readonly node: string | null;
  readonly size: string | null;
  readonly code: string | null;
  readonly customer: string;
  readonly hosts: number;
}

/** What has changed at the sites and nobody has noted, the newest first, each with the hosts and customers that it touches. */
export async function groundChanges(db: Connection, scope: Scope): Promise<GroundChangeEntry[]> {
  const changes = await db.rows<Stored>(
    `SELECT g.id, g.site_code AS site, s.name AS siteName, g.kind, g.subject, g.before_text AS \`before\`,
       g.after_text AS \`after\`, g.at
     FROM ground_change g JOIN site s ON s.code = g.site_code WHERE g.noted_by IS NULL ORDER BY g.id DESC LIMIT ${MOST}`,
  );
  if (changes.length === 0) return [];
  const hosts = await db.rows<Touched>(
    sql`SELECT p.site_code AS site, p.node, p.size, p.customer_id AS customer,
          IF(${reachable(scope, 'c.id')} AND c.kind = 'customer', c.code, NULL) AS code, COUNT(*) AS hosts
        FROM present_resource p JOIN customer c ON c.id = p.customer_id
        WHERE p.kind = 'host' AND p.present_condition <> 'gone' GROUP BY 1, 2, 3, 4, 5`,
  );
  return changes.map((change) => {
    const touched = hosts.filter((one) => one.site === change.site && touches(change, one));
    const known = new Set(touched.flatMap(({ code }) => code ?? []));
    const all = new Set(touched.map(({ customer }) => customer));
    return {
      ...change,
      worse: isWorse(change.kind),
      hosts: touched.reduce((sum, one) => sum + one.hosts, 0),
      customers: [...known].sort(),
      others: all.size - known.size,
    };
  });
}

/**
 * What got worse at the sites and nobody has noted, a line a site. A node that is up again needs no look any more.
 * @param told nodes, as `site node`, whose loss is told otherwise
 */
export async function groundSays(db: Connection, told: ReadonlySet<string>): Promise<string[]> {
  const rows = await db.rows<Pick<Stored, 'siteName' | 'site' | 'kind' | 'subject'>>(
    `SELECT s.name AS siteName, s.code AS site, g.kind, g.subject FROM ground_change g JOIN site s ON s.code = g.site_code
     WHERE g.noted_by IS NULL AND NOT (g.kind = 'node lost' AND EXISTS (SELECT 1 FROM node n
       WHERE n.site_code = g.site_code AND n.id = g.subject AND n.state = 'up')) ORDER BY s.name, g.id`,
  );
  const worse = rows.filter(
    ({ kind, site, subject }) => isWorse(kind) && !(kind === 'node lost' && told.has(`${site} ${subject}`)),
  );
  return [...new Set(worse.map(({ siteName }) => siteName))].map((site) => {
    const own = worse.filter(({ siteName }) => siteName === site);
    const [first] = own;
    return own.length === 1 && first
      ? `${site}: ${`${first.kind} ${first.subject}`.trim()}`
      : `${site}: ${own.length} things are worse than they were`;
  });
}

function touches({ kind, subject }: Stored, host: Touched): boolean {
  if (kind.startsWith('node')) return host.node === subject;
  if (kind.startsWith('size')) return host.size === subject;
  return kind.startsWith('quota');
}

/** @throws Problem 404 */
export const noteChange = (app: App, scope: Scope, id: string): Promise<void> =>
  write(app, scope, [], async (tx) => {
    const row = await tx.row<Stored>(
      'SELECT kind, subject, site_code AS site FROM ground_change WHERE id = ? AND noted_by IS NULL',
      [id],
    );
    if (!row) throw notFound('change');
    await noteSeen(tx, id, scope.actor.name);
    await tx.record({
      action: 'note change of ground',
      subject: `${row.kind} ${row.subject} at ${row.site}`.replace('  ', ' '),
      topic: 'ground',
      id,
    });
  });

/** What each provider asks, beside what is in force. */
export async function groundPrices(app: App): Promise<ProviderPricesView[]> {
  const standing = await app.db.rows<Standing>(
    `SELECT provider_code AS provider, meter, size, SUM(quantity) AS quantity FROM meter_interval
     WHERE to_at IS NULL AND (meter <> 'host' OR state = 'on') GROUP BY 1, 2, 3`,
  );
  return pricesView(
    app.db,
    standing.map((one) => ({ ...one, quantity: Number(one.quantity) })),
    app.clock.now(),
  );
}
