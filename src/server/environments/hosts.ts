import type { Host } from '../../contract';
import type { Condition, KnownResource, PresentFacts } from '../../core/facts';
import type { Attributes } from '../../core/intent';
import { compare, differenceSays } from '../../core/planning';
import { RESOURCE_KINDS } from '../../core/resources';
import type { MachineSize } from '../../core/machines';
import { hostStatus, type HostView } from '../../core/status';
import type { CustomerScope } from '../access';
import { all, atMost, holds, join, raw, sql, type Connection } from '../db';
import { hostOverridesJson, readOverrides } from '../overrides';
import { ASKED_FOR, AWAITED, UNSETTLED } from '../runs';
import { CLOSED_BY_SIGN } from '../signs';
import { sizesOfSites } from '../sites';

interface StoredHost {
  readonly id: string;
  readonly customer_id: string;
  readonly environment_id: string;
  readonly site_code: string;
  readonly resource_key: string;
  readonly name: string;
  readonly attributes: string;
  readonly wanted: number;
  readonly version: number;
  readonly seats: string | null;
  readonly leaving: number;
  readonly unsettled: number;
  readonly awaited: number;
  readonly making: string | null;
  readonly ref: string | null;
  readonly present_condition: Condition | null;
  readonly present: string | null;
  readonly sessions: number;
  readonly is_closed: number;
  readonly overrides: string | null;
}

/** Hosts wanted, each with what is there of it. One query however many there are. */
const HOSTS = sql`SELECT r.id, r.customer_id, r.environment_id, r.site_code, r.resource_key, r.name, r.attributes, r.wanted, r.version,
    (SELECT JSON_VALUE(q.attributes, '$.seats') FROM resource q WHERE q.customer_id = r.customer_id
       AND q.environment_id = r.environment_id AND q.kind = 'pool' AND q.returned_at IS NULL
       AND q.resource_key = JSON_VALUE(r.attributes, '$.pool')) AS seats,
    e.wanted = 'retired' OR NOT r.wanted AS leaving,
    ${raw(UNSETTLED)} AS unsettled, ${raw(AWAITED)} AS awaited, ${CLOSED_BY_SIGN} AS is_closed,
    ${hostOverridesJson(sql`r.customer_id`, sql`r.id`, sql`r.resource_key`)} AS overrides,
    (SELECT GROUP_CONCAT(DISTINCT u.state) FROM step s JOIN run u ON (u.customer_id, u.id) = (s.customer_id, s.run_id)
      WHERE s.customer_id = r.customer_id AND s.resource_id = r.id AND s.state IN ('waiting','working','failed')
        AND s.purpose IN ('make','replace') AND NOT (u.waits AND s.state = 'waiting' AND r.ref IS NOT NULL)) AS making,
    p.ref, p.present_condition, p.attributes AS present,
    (SELECT COUNT(*) FROM session x WHERE x.customer_id = p.customer_id AND x.provider_code = p.provider_code
       AND x.host_ref = p.ref) AS sessions
  FROM resource r
    JOIN environment e ON (e.customer_id, e.id) = (r.customer_id, r.environment_id)
    LEFT JOIN present_resource p ON p.customer_id = r.customer_id AND p.resource_id = r.id
      AND p.present_condition <> 'gone' AND (r.ref IS NULL OR r.ref = p.ref)
  WHERE r.kind = 'host' AND r.returned_at IS NULL AND ${raw(ASKED_FOR)}`;

/** The hosts of an environment that are not given back, by name. */
export async function listHosts(
  db: Connection,
  scope: CustomerScope,
  environmentId: string,
  page: { readonly after?: string | undefined; readonly find?: string | undefined; readonly limit: number },
): Promise<Host[]> {
  const rows = await db.rows<StoredHost>(
    sql`${HOSTS} AND ${all([
      sql`r.customer_id = ${scope.customer.id} AND r.environment_id = ${environmentId} AND r.name > ${page.after ?? ''}`,
      holds(sql`r.find_text`, page.find),
    ])} ORDER BY r.name ${atMost(page.limit)}`,
  );
  const sizes = await sizesOfSites(db);
  return eachOnce(rows).map((row) => readHost(row, sizes));
}

/** A host, and where it is. */
export interface PlacedHost {
  readonly host: Host;
  readonly environment: string;
  readonly site: string;
  readonly siteName: string;
  /** Whose record it stands in. */
  readonly provider: string;
}

/** One host that is not given back; undefined: the customer has none of that id. */
export async function hostOf(
  db: Connection,
  scope: CustomerScope,
  id: string,
): Promise<PlacedHost | undefined> {
  const [row] = await db.rows<StoredHost>(
    sql`${HOSTS} AND r.customer_id = ${scope.customer.id} AND r.id = ${id}`,
  );
  if (!row) return undefined;
  const place = await db.row<Omit<PlacedHost, 'host'>>(
    sql`SELECT e.name AS environment, s.code AS site, s.name AS siteName, s.provider_code AS provider
        FROM environment e JOIN site s ON s.code = ${row.site_code}
        WHERE e.customer_id = ${scope.customer.id} AND e.id = ${row.environment_id}`,
  );
  return place && { host: readHost(row, await sizesOfSites(db)), ...place };
}

/** All hosts that customers have, by customer; for their summaries. */
export async function hostsOfCustomers(
  db: Connection,
  customerIds: readonly string[],
): Promise<Map<string, Host[]>> {
  const byCustomer = new Map<string, Host[]>(customerIds.map((id) => [id, []]));
  if (customerIds.length === 0) return byCustomer;
  const rows = await db.rows<StoredHost>(
    sql`${HOSTS} AND r.customer_id IN (${join(customerIds)}) ORDER BY r.name`,
  );
  const sizes = await sizesOfSites(db);
  for (const row of eachOnce(rows)) byCustomer.get(row.customer_id)?.push(readHost(row, sizes));
  return byCustomer;
}

/** Where the making of a host was cut off twice, two may say that they are it: the list shows the first. */
function eachOnce(rows: readonly StoredHost[]): StoredHost[] {
  const seen = new Set<string>();
  return rows.filter((row) => !seen.has(row.id) && seen.add(row.id));
}

function readHost(row: StoredHost, sizes: ReadonlyMap<string, readonly MachineSize[]>): Host {
  const wanted = JSON.parse(row.attributes) as Attributes;
  const present = row.present === null ? undefined : (JSON.parse(row.present) as Attributes);
  const state = row.present_condition === 'well' ? String(present?.power ?? 'on') : row.present_condition;
  const view: HostView = {
    wantedPower: wanted.power === 'off' ? 'off' : 'on',
    wantedAccepting: wanted.accepting !== false,
    leaving: row.leaving === 1,
    making: makingOf(row.making),
    present: state === null ? undefined : { state, accepting: present?.accepting !== false },
    isClosed: row.is_closed === 1,
  };
  return {
    id: row.id,
    key: row.resource_key,
    environmentId: row.environment_id,
    pool: String(wanted.pool ?? '').replace('pool:', ''),
    name: row.name,
    address: String(wanted.address ?? ''),
    node: typeof wanted.node === 'string' ? wanted.node : null,
    size: String(wanted.size ?? ''),
    diskGiB: Number(wanted.diskGiB ?? 0),
    status: hostStatus(view),
    drift: driftOf(row, wanted, present, sizes.get(row.site_code) ?? []),
    wantedPower: view.wantedPower,
    wantedAccepting: view.wantedAccepting,
    overrides: readOverrides(row.overrides).map(({ host: _host, value, ...rest }) => ({
      ...rest,
      wants: String(value),
    })),
    pictured: Boolean(present?.picture),
    present: state,
    ref: row.ref,
    sessions: row.sessions,
    seats: Number(row.seats ?? 0),
    version: row.version,
    person: typeof wanted.person === 'string' ? wanted.person : null,
    personId: typeof wanted.personId === 'string' && wanted.personId !== '' ? wanted.personId : null,
    kept: wanted.kept === true,
  };
}

function makingOf(states: string | null): HostView['making'] {
  if (states === null) return 'no';
  return states.includes('running') || states.includes('stopping')
    ? 'at work'
    : states.includes('stopped')
      ? 'stopped'
      : 'no';
}

function driftOf(
  row: StoredHost,
  wanted: Attributes,
  present: Attributes | undefined,
  sizes: readonly MachineSize[],
): string[] {
  if (row.leaving === 1) return [];
  const known: KnownResource = {
    id: row.id,
    key: row.resource_key,
    kind: 'host',
    name: row.name,
    attributes: wanted,
    needs: [],
    version: row.version,
    wanted: row.wanted === 1,
    unsettled: row.unsettled === 1,
    awaited: row.awaited === 1,
    people: row.sessions,
  };
  const there: PresentFacts[] =
    present && row.ref !== null && row.present_condition !== null
      ? [
          {
            ref: row.ref,
            kind: 'host',
            name: row.name,
            key: row.resource_key,
            condition: row.present_condition,
            attributes: present,
          },
        ]
      : [];
  return compare(RESOURCE_KINDS, { known: [known], present: there }).map((one) => differenceSays(one, sizes));
}
