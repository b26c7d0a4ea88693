import {
  arcsOf,
  hostDrift,
  hostStanding,
  type Arc,
  type HostStanding,
  type HostView,
} from '../../core/standing';
import type { PublishedItem } from '../../core/ground';
import type { CustomerScope } from '../access';
import type { Connection, Value } from '../db';
import { notFound } from '../problem';

export interface EnvironmentRow {
  readonly id: string;
  readonly name: string;
  readonly site: string;
  readonly siteName: string;
  readonly template: string;
  readonly revision: number;
  /** A run is making it, or stopped before its end; or it serves, leaves or is retired. */
  readonly state: 'under way' | 'unfinished' | 'serving' | 'leaving' | 'retired';
  readonly people: number;
  readonly hosts: number;
  readonly createdAt: number;
  readonly retiredAt: number | null;
  readonly version: number;
  readonly arcs: readonly Arc[];
}

export interface EnvironmentView extends EnvironmentRow {
  readonly pool: {
    readonly id: string;
    readonly name: string;
    readonly image: string;
    readonly size: string;
    readonly seats: number;
    readonly arrival: 'spread' | 'fill';
    readonly diskGiB: number;
    readonly shareGiB: number;
    readonly subnet: string;
    readonly items: readonly PublishedItem[];
  };
  readonly network: string;
  readonly peopleIn: number;
  readonly seatsOpen: number;
  readonly drift: number;
}

export interface HostRow {
  readonly id: string;
  readonly environmentId: string;
  readonly name: string;
  readonly address: string;
  readonly node: string | null;
  readonly standing: HostStanding;
  readonly drift: readonly string[];
  readonly wantedPower: 'on' | 'off';
  readonly wantedAccepting: boolean;
  /** As the provider says: `on`, `off`, `building`, `unwell`, `gone`; null: it knows no such host. */
  readonly present: string | null;
  readonly ref: string | null;
  readonly sessions: number;
  readonly seats: number;
  readonly version: number;
}

const UNDER_WAY = `EXISTS (SELECT 1 FROM run r WHERE r.customer_id = e.customer_id AND r.environment_id = e.id
  AND r.kind IN ('provision','retire') AND r.state IN ('running','stopping'))`;

const CUT_OFF = `EXISTS (SELECT 1 FROM run r WHERE r.customer_id = e.customer_id AND r.environment_id = e.id
  AND r.kind = 'provision' AND r.state = 'stopped')`;

const ENVIRONMENT = `SELECT e.id, e.name, e.site_code AS site, s.name AS siteName, e.template_code AS template, e.revision,
    CASE WHEN e.retired_at IS NOT NULL THEN 'retired' WHEN e.wanted = 'retired' THEN 'leaving'
         WHEN ${UNDER_WAY} THEN 'under way' WHEN ${CUT_OFF} THEN 'unfinished' ELSE 'serving' END AS state,
    e.people, e.created_at AS createdAt, e.retired_at AS retiredAt, e.version,
    (SELECT COUNT(*) FROM host h JOIN pool p ON (p.customer_id, p.id) = (h.customer_id, h.pool_id)
      WHERE p.customer_id = e.customer_id AND p.environment_id = e.id AND h.returned_at IS NULL) AS hosts
  FROM environment e JOIN site s ON s.code = e.site_code`;

/** A customer's environments, the retired ones last. @param page `after` is the id of the last one of the page before */
export async function listEnvironments(
  db: Connection,
  scope: CustomerScope,
  page: { readonly after?: string | undefined; readonly limit: number } = { limit: 500 },
): Promise<EnvironmentRow[]> {
  const rows = await db.rows<Omit<EnvironmentRow, 'arcs'>>(
    `${ENVIRONMENT} WHERE e.customer_id = ? AND e.id > ? ORDER BY e.id LIMIT ${Math.floor(page.limit)}`,
    [scope.customer.id, page.after ?? ''],
  );
  const hosts = (await hostsOfCustomers(db, [scope.customer.id])).get(scope.customer.id) ?? [];
  return rows.map((row) => ({
    ...row,
    arcs: arcsOf(
      hosts.filter((host) => host.environmentId === row.id),
      SMALL_RING,
    ),
  }));
}

/** Arcs that a small ring can still show, and a page's picture. */
const SMALL_RING = 24;
const LARGE_RING = 120;

interface PoolRow {
  readonly id: string;
  readonly name: string;
  readonly image: string;
  readonly size: string;
  readonly seats: number;
  readonly arrival: 'spread' | 'fill';
  readonly diskGiB: number;
  readonly shareGiB: number;
  readonly subnet: string;
  readonly items: string;
  readonly network: string;
}

/** @throws Problem 404 when the customer has no such environment */
export async function getEnvironment(
  db: Connection,
  scope: CustomerScope,
  id: string,
): Promise<EnvironmentView> {
  const row = await db.row<Omit<EnvironmentRow, 'arcs'>>(
    `${ENVIRONMENT} WHERE e.customer_id = ? AND e.id = ?`,
    [scope.customer.id, id],
  );
  if (!row) throw notFound('environment');
  const pool = await db.row<PoolRow>(
    `SELECT p.id, p.name, p.image, p.size, p.seats, p.arrival, p.disk_gib AS diskGiB, p.share_gib AS shareGiB,
       p.subnet_cidr AS subnet, p.items, n.cidr AS network
     FROM pool p JOIN network n ON (n.customer_id, n.id) = (p.customer_id, p.network_id)
     WHERE p.customer_id = ? AND p.environment_id = ?`,
    [scope.customer.id, id],
  );
  if (!pool) throw notFound('pool');
  const hosts = await listHosts(db, scope, id, { limit: 10_000 });
  const { network, items, ...rest } = pool;
  const open = hosts.filter((host) => host.standing === 'serving');
  return {
    ...row,
    network,
    pool: { ...rest, items: JSON.parse(items) as PublishedItem[] },
    arcs: arcsOf(hosts, LARGE_RING),
    peopleIn: hosts.reduce((sum, host) => sum + host.sessions, 0),
    seatsOpen: open.reduce((sum, host) => sum + Math.max(0, host.seats - host.sessions), 0),
    drift: hosts.filter((host) => host.drift.length > 0).length,
  };
}

interface StoredHost {
  readonly id: string;
  readonly customer_id: string;
  readonly environment_id: string;
  readonly name: string;
  readonly address: string;
  readonly node: string | null;
  readonly wanted_power: 'on' | 'off';
  readonly wanted_accepting: number;
  readonly version: number;
  readonly seats: number;
  readonly leaving: number;
  readonly under_way: number;
  readonly cut_off: number;
  readonly ref: string | null;
  readonly state: string | null;
  readonly accepting: number | null;
  readonly sessions: number;
}

/** Hosts wanted, each with what is there of it. One query however many there are. */
export const HOSTS = `SELECT h.id, h.customer_id, p.environment_id, h.name, h.address, h.node, h.wanted_power, h.wanted_accepting, h.version,
    p.seats, e.wanted = 'retired' AS leaving, ${UNDER_WAY} AS under_way, ${CUT_OFF} AS cut_off, o.ref, o.state, o.accepting,
    (SELECT COUNT(*) FROM session_seen x WHERE x.customer_id = o.customer_id AND x.host_ref = o.ref) AS sessions
  FROM host h
    JOIN pool p ON (p.customer_id, p.id) = (h.customer_id, h.pool_id)
    JOIN environment e ON (e.customer_id, e.id) = (p.customer_id, p.environment_id)
    LEFT JOIN link l ON l.customer_id = h.customer_id AND l.kind = 'host' AND l.wanted_id = h.id
    LEFT JOIN observed o ON o.customer_id = l.customer_id AND o.ref = l.ref`;

/** The hosts of an environment that are not given back, by name. */
export async function listHosts(
  db: Connection,
  scope: CustomerScope,
  environmentId: string,
  page: { readonly after?: string | undefined; readonly limit: number },
): Promise<HostRow[]> {
  const rows = await db.rows<StoredHost>(
    `${HOSTS} WHERE h.customer_id = ? AND e.id = ? AND h.returned_at IS NULL AND h.name > ?
     ORDER BY h.name LIMIT ${Math.floor(page.limit)}`,
    [scope.customer.id, environmentId, page.after ?? ''],
  );
  return rows.map(readHost);
}

/** All hosts that customers have, by customer; for the tally. */
export async function hostsOfCustomers(
  db: Connection,
  customerIds: readonly string[],
): Promise<Map<string, HostRow[]>> {
  const values: Value[] = [...customerIds];
  const rows = await db.rows<StoredHost>(
    `${HOSTS} WHERE h.customer_id IN (${values.map(() => '?').join(',')}) AND h.returned_at IS NULL ORDER BY h.name`,
    values,
  );
  const byCustomer = new Map<string, HostRow[]>(customerIds.map((id) => [id, []]));
  for (const row of rows) byCustomer.get(row.customer_id)?.push(readHost(row));
  return byCustomer;
}

function readHost(row: StoredHost): HostRow {
  const view: HostView = {
    wantedPower: row.wanted_power,
    wantedAccepting: row.wanted_accepting === 1,
    leaving: row.leaving === 1,
    making: row.under_way === 1 ? 'at work' : row.cut_off === 1 ? 'stopped' : 'no',
    present: row.state === null ? undefined : { state: row.state, accepting: row.accepting !== 0 },
  };
  return {
    id: row.id,
    environmentId: row.environment_id,
    name: row.name,
    address: row.address,
    node: row.node,
    standing: hostStanding(view),
    drift: hostDrift(view),
    wantedPower: row.wanted_power,
    wantedAccepting: view.wantedAccepting,
    present: row.state,
    ref: row.ref,
    sessions: row.sessions,
    seats: row.seats,
    version: row.version,
  };
}
