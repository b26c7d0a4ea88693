import type { ServicesFacts, SiteFacts } from '../../core/facts';
import type { Attributes } from '../../core/intent';
import { SERVICES } from '../../core/resources';
import { MSP, type CustomerScope } from '../access';
import type { App } from '../app';
import type { Connection } from '../db';
import { OutsideError } from '../outside';

/** The MSP's shared services at a site; undefined: there are none, or they are going. */
export async function servicesAt(db: Connection, site: string): Promise<ServicesFacts | undefined> {
  const rows = await db.rows<{ id: string; key: string; attributes: string }>(
    `SELECT id, resource_key AS \`key\`, attributes FROM resource
     WHERE customer_id = ? AND site_code = ? AND resource_key IN (?, ?) AND wanted AND returned_at IS NULL`,
    [MSP.id, site, SERVICES, networkOf(site)],
  );
  const found = (key: string): { id: string; attributes: Attributes } | undefined => {
    const row = rows.find((one) => one.key === key);
    return row && { id: row.id, attributes: JSON.parse(row.attributes) as Attributes };
  };
  const [services, network] = [found(SERVICES), found(networkOf(site))];
  if (!services || !network) return undefined;
  return {
    network: network.id,
    cidr: String(network.attributes.cidr),
    nameServers: services.attributes.nameServers as readonly string[],
    directory: String(services.attributes.directory),
  };
}

export const networkOf = (site: string): string => `network:${site}`;

/** How many customers are joined with the MSP's network at a site. */
export async function joinedBy(db: Connection, site: string): Promise<number> {
  const row = await db.row<{ customers: number }>(
    `SELECT COUNT(DISTINCT customer_id) AS customers FROM resource
     WHERE site_code = ? AND joins_id IS NOT NULL AND returned_at IS NULL`,
    [site],
  );
  return row?.customers ?? 0;
}

/**
 * Tries the way from a customer's network at a site: its name servers are asked for its directory, and that is reached.
 * @returns undefined where it has no network there, or there is nothing to reach
 */
export async function tryRoute(
  app: App,
  { customer }: CustomerScope,
  site: string,
  realm: string,
): Promise<SiteFacts['route']> {
  const services = await servicesAt(app.db, site);
  const network = await app.db.row<{ ref: string; attributes: string }>(
    `SELECT ref, attributes FROM resource WHERE customer_id = ? AND resource_key = ? AND ref IS NOT NULL
       AND wanted AND returned_at IS NULL`,
    [customer.id, networkOf(site)],
  );
  if (!services || !network) return undefined;
  const { cidr, nameServers } = JSON.parse(network.attributes) as Attributes;
  if (!Array.isArray(nameServers)) return undefined;
  try {
    const { port } = await app.providers.at(site);
    for (const server of nameServers as readonly string[]) {
      const asked = await port.probe(network.ref, { to: server, ask: realm });
      if (!asked.worked) return { worked: false, says: `from ${String(cidr)}, ${asked.says}` };
    }
    const { worked, says } = await port.probe(network.ref, { to: services.directory });
    return {
      worked,
      says: worked
        ? `from ${String(cidr)}, ${nameServers.length} name servers know ${realm}, and its directory is reached`
        : `from ${String(cidr)}, ${says}`,
    };
  } catch (error) {
    if (error instanceof OutsideError) return { worked: false, says: error.says };
    throw error;
  }
}
