import type { Site } from '../../contract';
import type { ImageFacts, Quota } from '../../core/facts';
import type { MachineSize } from '../../core/machines';
import { reachable, type Scope } from '../access';
import { sql, type Connection } from '../db';
import { notFound } from '../problem';

/** Stands for a customer out of reach, who is not named. */
export const OTHER = 'another customer';

interface StoredSite {
  readonly code: string;
  readonly name: string;
  readonly kind: Site['kind'];
  readonly provider: string;
  readonly images: string;
  readonly sizes: string;
  readonly quota: string | null;
  readonly read_at: number;
  readonly sign_in_works: number;
  readonly sign_in_says: string;
}

interface StoredNode {
  readonly site_code: string;
  readonly id: string;
  readonly zone: string;
  readonly state: 'up' | 'lost' | 'gone';
  readonly dedicated_to: string | null;
  readonly vcpu: number;
  readonly memory_gib: number;
  readonly disk_gib: number;
}

/** The sites with their nodes, and how full they are. Counts hosts of all customers; names none of them. */
export async function listSites(db: Connection, scope: Scope): Promise<Site[]> {
  const [inReach, sites, nodes, used] = await Promise.all([
    db.rows<{ code: string }>(sql`SELECT c.code FROM customer c WHERE ${reachable(scope, 'c.id')}`),
    db.rows<StoredSite>(
      `SELECT s.code, s.name, s.kind, s.images, s.sizes, s.quota, s.read_at, p.name AS provider, p.sign_in_works, p.sign_in_says
       FROM site s JOIN provider p ON p.code = s.provider_code ORDER BY s.name`,
    ),
    db.rows<StoredNode>('SELECT * FROM node ORDER BY site_code, id'),
    db.rows<{ site_code: string; node: string | null; size: string | null; hosts: number }>(
      `SELECT site_code, node, size, COUNT(*) AS hosts FROM present_resource
       WHERE kind = 'host' AND present_condition <> 'gone' GROUP BY site_code, node, size`,
    ),
  ]);
  const named = new Set(inReach.map((one) => one.code));
  return sites.map((site) => {
    const sizes = JSON.parse(site.sizes) as MachineSize[];
    const here = used.filter((row) => row.site_code === site.code);
    const amount = (rows: typeof here, of: (size: MachineSize) => number): number =>
      rows.reduce((sum, row) => {
        const size = sizes.find((one) => one.key === row.size);
        return sum + (size ? of(size) * row.hosts : 0);
      }, 0);
    return {
      code: site.code,
      name: site.name,
      kind: site.kind,
      provider: site.provider,
      images: JSON.parse(site.images) as ImageFacts[],
      sizes,
      quota: site.quota === null ? null : (JSON.parse(site.quota) as Quota),
      hosts: here.reduce((sum, row) => sum + row.hosts, 0),
      signIn: { worked: site.sign_in_works === 1, says: site.sign_in_says },
      readAt: site.read_at,
      nodes: nodes
        .filter((node) => node.site_code === site.code)
        // One that is told no more is shown for as long as hosts are said to be on it.
        .filter((node) => node.state !== 'gone' || here.some((row) => row.node === node.id))
        .map((node) => {
          const there = here.filter((row) => row.node === node.id);
          return {
            id: node.id,
            zone: node.zone,
            state: node.state,
            dedicatedTo:
              node.dedicated_to === null || named.has(node.dedicated_to) ? node.dedicated_to : OTHER,
            vcpu: node.vcpu,
            memoryGiB: node.memory_gib,
            diskGiB: node.disk_gib,
            hosts: there.reduce((sum, row) => sum + row.hosts, 0),
            memoryUsed: amount(there, (size) => size.memoryGiB),
            vcpuUsed: amount(there, (size) => size.vcpu),
          };
        }),
    };
  });
}

/** The sizes that each site has, by the site's code. */
export async function sizesOfSites(db: Connection): Promise<Map<string, readonly MachineSize[]>> {
  const rows = await db.rows<{ code: string; sizes: string }>('SELECT code, sizes FROM site');
  return new Map(rows.map(({ code, sizes }) => [code, JSON.parse(sizes) as MachineSize[]]));
}

/** What a site has to offer of its own: sizes, and images that are not made here. @throws Problem 404 */
export async function offersAt(
  db: Connection,
  site: string,
): Promise<{ readonly sizes: readonly MachineSize[]; readonly images: readonly ImageFacts[] }> {
  const row = await db.row<{ sizes: string; images: string }>(
    'SELECT sizes, images FROM site WHERE code = ?',
    [site],
  );
  if (!row) throw notFound('site');
  return { sizes: JSON.parse(row.sizes) as MachineSize[], images: JSON.parse(row.images) as ImageFacts[] };
}

/** The sites by name, each with its sizes: no customer's. */
export async function sitesInShort(
  db: Connection,
): Promise<{ readonly code: string; readonly name: string; readonly sizes: readonly MachineSize[] }[]> {
  const rows = await db.rows<{ code: string; name: string; sizes: string }>(
    'SELECT code, name, sizes FROM site ORDER BY name',
  );
  return rows.map(({ sizes, ...site }) => ({ ...site, sizes: JSON.parse(sizes) as MachineSize[] }));
}
