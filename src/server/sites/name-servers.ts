import { contains } from '../../core/addressing';
import type { SiteFacts } from '../../core/facts';
import { MSP, type CustomerScope } from '../access';
import type { App } from '../app';
import { sql } from '../db';
import { OutsideError } from '../outside';
import { blockOf } from './facts';
import { networkOf, servicesAt } from './services';

/**
 * Asks a customer's name servers for its directory from the shared services, as long as its network at the site does not
 * know of them. Only addresses of the shared services themselves are asked: those reach every customer, and what is at an
 * address of another customer's is told to nobody.
 * @returns undefined where they could not be asked, or need not be
 */
export async function tryNameServers(
  app: App,
  { customer }: CustomerScope,
  site: string,
  realm: string,
): Promise<SiteFacts['nameServers']> {
  const services = await servicesAt(app.db, site);
  const row = await app.db.row<{ own: string | null; known: string | null; from: string | null }>(
    sql`SELECT JSON_QUERY(c.details, '$.nameServers') AS own,
          (SELECT JSON_QUERY(n.attributes, '$.nameServers') FROM resource n WHERE n.customer_id = c.id
             AND n.resource_key = ${networkOf(site)} AND n.ref IS NOT NULL AND n.wanted AND n.returned_at IS NULL) AS known,
          (SELECT s.ref FROM resource s WHERE s.customer_id = ${MSP.id} AND s.id = ${services?.network ?? ''}) AS \`from\`
        FROM customer c WHERE c.id = ${customer.id}`,
  );
  if (!services || !row || row.from === null) return undefined;
  const read = (list: string | null): string[] => JSON.parse(list ?? '[]') as string[];
  const own = read(row.own);
  const asked = own.length > 0 ? own : services.nameServers;
  const ofServices = blockOf(services.cidr);
  const isThere = (address: string): boolean => {
    const one = blockOf(`${address}/32`);
    return ofServices !== undefined && one !== undefined && contains(ofServices, one);
  };
  if (asked.join() === read(row.known).join() || !asked.every(isThere)) return undefined;
  try {
    const { port } = await app.providers.at(site);
    for (const to of asked) {
      const { worked, says } = await port.probe(row.from, { to, ask: realm });
      if (!worked) return { worked, says };
    }
    return { worked: true, says: `${asked.length} name servers know ${realm}` };
  } catch (error) {
    // That the provider could not be asked says nothing of them.
    if (error instanceof OutsideError) return undefined;
    throw error;
  }
}
