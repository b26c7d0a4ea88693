import type { HostSignTold } from '../../contract';
import { signKind, gatherSigns, type Gathered, type HostSign, type NodeFacts } from '../../core/signs';
import { within, type CustomerScope, type Scope } from '../access';
import type { App } from '../app';
import { atMost, join, raw, sql, type Connection } from '../db';

interface Row {
  readonly id: string;
  readonly kind: HostSign['kind'];
  readonly harm: HostSign['harm'];
  readonly says: string;
  readonly since: number;
  readonly people: number;
  readonly customer: string;
  readonly environment: string;
  readonly pool: string;
  readonly host_id: string;
  readonly host: string;
  readonly site: string;
  readonly node: string | null;
}

/** Signs that hosts show now: of one customer when inside it, otherwise of all in reach. */
async function openSigns(db: Connection, scope: Scope | CustomerScope): Promise<HostSign[]> {
  const rows = await db.rows<Row>(
    sql`SELECT g.id, g.kind, g.harm, g.says, g.since, g.people, c.code AS customer, r.environment_id AS environment,
          SUBSTRING(JSON_VALUE(r.attributes, '$.pool'), 6) AS pool, r.id AS host_id, r.name AS host,
          g.site_code AS site, g.node
        FROM sign g JOIN customer c ON c.id = g.customer_id AND c.kind = 'customer'
          JOIN resource r ON (r.customer_id, r.id) = (g.customer_id, g.resource_id)
        WHERE g.ended_at IS NULL AND ${within(scope, 'g.customer_id')}`,
  );
  return rows.map(({ host_id, host, node, ...row }) => ({
    ...row,
    host: { id: host_id, name: host },
    node: node ?? undefined,
  }));
}

/** Signs by their cause, in order of whom they hit. */
export async function gatheredSigns(db: Connection, scope: Scope | CustomerScope): Promise<Gathered[]> {
  const signs = await openSigns(db, scope);
  return gatherSigns(signs, await nodesOf(db, signs));
}

/** How it is with the nodes that silent hosts are on, whosever those are: nothing of another customer is told by it. */
async function nodesOf(db: Connection, signs: readonly HostSign[]): Promise<NodeFacts[]> {
  const nodes = new Map(
    signs.flatMap(({ kind, site, node }) =>
      kind === 'silent' && node !== undefined ? [[`${site} ${node}`, sql`(${site}, ${node})`] as const] : [],
    ),
  );
  if (nodes.size === 0) return [];
  const rows = await db.rows<{ site: string; node: string; hosts: number; silent: number; lost: number }>(
    sql`SELECT p.site_code AS site, p.node, COUNT(*) AS hosts,
          SUM(EXISTS (SELECT 1 FROM sign g WHERE g.customer_id = p.customer_id AND g.resource_id = p.resource_id
            AND g.kind = 'silent' AND g.ended_at IS NULL)) AS silent,
          MAX(n.state = 'lost') AS lost
        FROM present_resource p LEFT JOIN node n ON n.site_code = p.site_code AND n.id = p.node
        WHERE p.kind = 'host' AND p.present_condition IN ('well','unwell') AND (p.site_code, p.node) IN (${join([...nodes.values()])})
          AND p.power = 'on'
        GROUP BY p.site_code, p.node`,
  );
  return rows.map(({ lost, ...one }) => ({
    ...one,
    hosts: Number(one.hosts),
    silent: Number(one.silent),
    isLost: Number(lost) === 1,
  }));
}

/** What a host shows, and what it showed within the last month: the newest first. */
export async function signsOfHost(
  db: Connection,
  scope: CustomerScope,
  host: string,
): Promise<HostSignTold[]> {
  const rows = await db.rows<Omit<HostSignTold, 'helps' | 'mend'>>(
    sql`SELECT id, kind, says, harm, people, since, ended_at AS endedAt FROM sign
        WHERE customer_id = ${scope.customer.id} AND resource_id = ${host}
        ORDER BY ended_at IS NOT NULL, since DESC ${atMost(MOST_OF_HOST)}`,
  );
  return rows.map((row) => {
    const { helps, mend = null } = signKind(row.kind);
    return { ...row, helps, mend };
  });
}

const MOST_OF_HOST = 30;

/** A condition: nobody is to be placed on a host, `r`, because of a sign that it shows. */
export const CLOSED_BY_SIGN = raw(
  `EXISTS (SELECT 1 FROM sign g WHERE g.customer_id = r.customer_id AND g.resource_id = r.id AND g.ended_at IS NULL AND g.closes)`,
);

/** Signs that are over are known so long. */
const KEEP_MS = 30 * 86_400_000;

export const forgetSigns = (app: App): Promise<number> =>
  app.db.write(sql`DELETE FROM sign WHERE ended_at < ${app.clock.now() - KEEP_MS} LIMIT 5000`);
