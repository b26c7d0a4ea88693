import type { JoinedNetwork, Networks, SiteNetworks } from '../../contract';
import type { Condition, KnownResource, PresentFacts } from '../../core/facts';
import type { Attributes } from '../../core/intent';
import { compare } from '../../core/planning';
import { SERVICES } from '../../core/resources';
import { MSP, reachable, systemScope, within, type CustomerScope, type Scope } from '../access';
import type { App } from '../app';
import { raw, sql, type Connection } from '../db';
import { listEnvironments } from '../environments';
import { UNSETTLED } from '../runs';

/** The shared services of each site, and how the networks of those in reach are joined with them. */
export async function listNetworks(app: App, scope: Scope): Promise<Networks> {
  const [sites, networks] = await Promise.all([servicesOfSites(app.db), joinedNetworks(app, scope)]);
  return { sites, networks };
}

/** What of a customer's networks someone should look at. */
export const networkSays = async (app: App, scope: CustomerScope): Promise<string[]> =>
  (await joinedNetworks(app, scope)).flatMap((one) => one.differences.map(({ says }) => says));

/** The names of those in reach, by code. */
export async function namesOf(db: Connection, scope: Scope): Promise<Record<string, string>> {
  const rows = await db.rows<{ code: string; name: string }>(
    sql`SELECT c.code, c.name FROM customer c WHERE ${reachable(scope, 'c.id')} AND c.kind = 'customer'`,
  );
  return Object.fromEntries(rows.map(({ code, name }) => [code, name]));
}

async function servicesOfSites(db: Connection): Promise<SiteNetworks[]> {
  const [sites, environments, rows] = await Promise.all([
    db.rows<{ site: string; name: string }>('SELECT code AS site, name FROM site ORDER BY name'),
    listEnvironments(db, systemScope(MSP)),
    db.rows<{ site: string; key: string; environment: string | null; attributes: string }>(
      `SELECT site_code AS site, resource_key AS \`key\`, environment_id AS environment, attributes FROM resource
       WHERE customer_id = ? AND returned_at IS NULL AND (kind = ? OR environment_id IS NULL)`,
      [MSP.id, SERVICES],
    ),
  ]);
  const attributesOf = (site: string, key: string): Attributes =>
    JSON.parse(rows.find((one) => one.site === site && one.key === key)?.attributes ?? '{}') as Attributes;
  return sites.map(({ site, name }) => {
    const id = rows.find((one) => one.site === site && one.key === SERVICES)?.environment;
    const environment = environments.find((one) => one.id === id);
    if (!environment) return { site, name, services: null };
    const { directory, gateway, nameServers } = attributesOf(site, SERVICES);
    return {
      site,
      name,
      services: {
        cidr: String(attributesOf(site, `network:${site}`).cidr ?? ''),
        nameServers: listOf(nameServers),
        directory: String(directory),
        gateway: String(gateway),
        environment: environment.id,
        state: environment.state,
      },
    };
  });
}

interface Row {
  readonly code: string;
  readonly id: string;
  readonly site: string;
  readonly kind: string;
  readonly key: string;
  readonly name: string;
  readonly attributes: string;
  readonly wanted: number;
  readonly unsettled: number;
  readonly ref: string | null;
  readonly present_condition: Condition | null;
  readonly present: string | null;
  readonly environment: string | null;
}

/** What customers have together at a site, as the one comparison of wanted and present sees it. */
async function joinedNetworks(app: App, scope: Scope | CustomerScope): Promise<JoinedNetwork[]> {
  const rows = await app.db.rows<Row>(
    sql`SELECT c.code, r.id, r.site_code AS site, r.kind, r.resource_key AS ${raw('`key`')}, r.name, r.attributes, r.wanted,
         ${raw(UNSETTLED)} AS unsettled, p.ref, p.present_condition, p.attributes AS present,
         (SELECT MIN(e.id) FROM environment e WHERE e.customer_id = r.customer_id AND e.site_code = r.site_code
           AND e.wanted = 'serving') AS environment
       FROM resource r JOIN customer c ON c.id = r.customer_id AND c.kind = 'customer'
         LEFT JOIN present_resource p ON p.customer_id = r.customer_id AND p.resource_id = r.id
           AND p.gone_at IS NULL AND p.present_condition <> 'gone'
       WHERE r.environment_id IS NULL AND r.returned_at IS NULL AND ${within(scope, 'r.customer_id')}
       ORDER BY c.code, r.site_code, r.id`,
  );
  const places = new Map<string, Row[]>();
  for (const row of rows) {
    const place = `${row.code} ${row.site}`;
    const own = places.get(place);
    if (own) own.push(row);
    else places.set(place, [row]);
  }
  return [...places.values()].flatMap((own) => networkOf(app, own));
}

function networkOf(app: App, rows: readonly Row[]): JoinedNetwork[] {
  const network = rows.find((row) => row.kind === 'network' && row.wanted === 1);
  if (!network) return [];
  const differences = compare(app.catalogue.kinds, {
    known: rows.map(knownOf),
    present: rows.flatMap(presentOf),
  });
  const sideOf = (side: 'out' | 'back'): JoinedNetwork['out'] => {
    const row = rows.find((one) => one.key === `peering:${network.site}:${side}` && one.wanted === 1);
    if (!row) return 'not asked for';
    if (row.unsettled === 1) return 'under way';
    return row.ref === null ? 'missing' : 'stands';
  };
  const { cidr, nameServers } = JSON.parse(network.attributes) as Attributes;
  return [
    {
      customer: network.code,
      site: network.site,
      cidr: String(cidr),
      nameServers: listOf(nameServers),
      out: sideOf('out'),
      back: sideOf('back'),
      differences: differences.map(({ key, name, says, difference }) => ({
        key,
        attribute: typeof difference === 'string' ? null : difference.attribute,
        says: `${name}: ${says}`,
      })),
      environment: network.environment,
    },
  ];
}

const knownOf = (row: Row): KnownResource => ({
  id: row.id,
  key: row.key,
  kind: row.kind,
  name: row.name,
  attributes: JSON.parse(row.attributes) as Attributes,
  needs: [],
  version: 0,
  wanted: row.wanted === 1,
  unsettled: row.unsettled === 1,
  people: 0,
});

const presentOf = (row: Row): PresentFacts[] =>
  row.ref === null || row.present_condition === null
    ? []
    : [
        {
          ref: row.ref,
          kind: row.kind,
          name: row.name,
          key: row.key,
          condition: row.present_condition,
          attributes: JSON.parse(row.present ?? '{}') as Attributes,
        },
      ];

const listOf = (value: unknown): string[] => (Array.isArray(value) ? value.map(String) : []);
