import { bestFit, parseBlock, type Block } from '../../core/addressing';
import type { ImageFacts, Quota, SiteFacts } from '../../core/facts';
import type { Node, Placed } from '../../core/placement';
import { quotaWith } from '../../core/planning';
import type { MachineSize } from '../../core/machines';
import { MSP, type CustomerScope } from '../access';
import { quotasTakenAt } from '../claims';
import { newId, type Connection } from '../db';
import { notFound } from '../problem';
import { OTHER } from './read';
import { joinedBy, servicesAt } from './services';
import { readyAt, straysOf } from './shelf';

/** What came of asking outside, before any lock is taken. */
export interface OutsideSays extends Pick<SiteFacts, 'directory' | 'route' | 'nameServers' | 'askedAt'> {
  /** Names of computers that the directory knows; left out: it was not asked, or did not answer. */
  readonly computers?: readonly string[] | undefined;
}

export const blockOf = (cidr: string): Block | undefined => {
  const block = parseBlock(cidr);
  return block.ok ? block.value : undefined;
};

/** A customer's block at a site, or one that could be its: no customer holds any of it, at any site. */
export async function blockFor(
  connection: Connection,
  { customer }: Pick<CustomerScope, 'customer'>,
  siteCode: string,
): Promise<{ readonly block: Block | undefined; readonly isNew: boolean }> {
  const given = await connection.row<{ cidr: string }>(
    'SELECT cidr FROM address_block WHERE customer_id = ? AND site_code = ? AND returned_at IS NULL',
    [customer.id, siteCode],
  );
  if (given) return { block: blockOf(given.cidr), isNew: false };
  const size = await connection.row<{ prefix: number | null }>(
    "SELECT JSON_VALUE(details, '$.blockPrefix') AS prefix FROM customer WHERE id = ?",
    [customer.id],
  );
  const block = await freeSpace(connection, siteCode, Number(size?.prefix ?? USUAL_PREFIX), customer.id);
  return { block, isNew: true };
}

/** 4096 addresses: room for many pools. */
const USUAL_PREFIX = 20;

/** The block of a size that would be given at a site: no customer holds any of it, at any site. */
export async function freeSpace(
  connection: Connection,
  siteCode: string,
  prefix: number,
  /** For whom: what is kept for a proposal of theirs is theirs. */
  customerId = '',
): Promise<Block | undefined> {
  const ranges = await connection.rows<{ cidr: string }>(
    'SELECT cidr FROM address_range WHERE site_code = ? AND NOT closed',
    [siteCode],
  );
  const taken = await connection.rows<{ cidr: string }>(
    `SELECT cidr FROM address_block WHERE returned_at IS NULL UNION ALL SELECT cidr FROM kept_clear
     UNION ALL SELECT block FROM held_proposal WHERE block IS NOT NULL AND customer_id <> ?`,
    [customerId],
  );
  return bestFit(
    ranges.flatMap(({ cidr }) => blockOf(cidr) ?? []),
    taken.flatMap(({ cidr }) => blockOf(cidr) ?? []),
    prefix,
  );
}

/** Gives a customer its block at a site. */
export const giveBlock = (
  connection: Connection,
  { customer }: CustomerScope,
  siteCode: string,
  cidr: string,
): Promise<number> =>
  connection.write('INSERT INTO address_block (customer_id, id, site_code, cidr) VALUES (?, ?, ?, ?)', [
    customer.id,
    newId(),
    siteCode,
    cidr,
  ]);

/** What a site is and has now. Of other customers it holds only how much of each node they take together. */
export async function siteFacts(
  connection: Connection,
  scope: CustomerScope,
  siteCode: string,
  { directory, route, nameServers, askedAt }: OutsideSays,
): Promise<SiteFacts> {
  const site = await connection.row<{
    name: string;
    kind: SiteFacts['kind'];
    reserved_addresses: number;
    images: string;
    sizes: string;
    quota: string | null;
    sign_in_works: number;
    sign_in_says: string;
  }>(
    `SELECT s.name, s.kind, s.reserved_addresses, s.images, s.sizes, s.quota, p.sign_in_works, p.sign_in_says
     FROM site s JOIN provider p ON p.code = s.provider_code WHERE s.code = ?`,
    [siteCode],
  );
  if (!site) throw notFound('site');
  const sizes = JSON.parse(site.sizes) as MachineSize[];
  const present = asOne([
    ...(await takenAt(connection, scope, siteCode, sizes)),
    ...(await straysAt(connection, siteCode, sizes)),
  ]);
  const quota = site.quota === null ? undefined : (JSON.parse(site.quota) as Quota);
  return {
    code: siteCode,
    name: site.name,
    kind: site.kind,
    reservedAddresses: site.reserved_addresses,
    sizes,
    images: JSON.parse(site.images) as ImageFacts[],
    nodes: await nodesAt(connection, scope, siteCode),
    present,
    // What is wanted but not built yet counts too, or two runs would take the same quota.
    quota: quota && quotaWith(unused(quota), present, await quotasTakenAt(connection, siteCode)),
    signIn: { worked: site.sign_in_works === 1, says: site.sign_in_says },
    directory,
    route,
    nameServers,
    askedAt,
    shelf: await readyAt(connection, siteCode),
    ...(scope.customer.id === MSP.id
      ? {
          joinedBy: await joinedBy(connection, siteCode),
          strays: await straysOf(connection, siteCode),
        }
      : { services: await servicesAt(connection, siteCode) }),
  };
}

async function nodesAt(
  connection: Connection,
  { customer }: CustomerScope,
  siteCode: string,
): Promise<Node[]> {
  const rows = await connection.rows<{
    id: string;
    zone: string;
    vcpu: number;
    memory_gib: number;
    disk_gib: number;
    dedicated_to: string | null;
    is_down: number;
  }>(
    "SELECT id, zone, vcpu, memory_gib, disk_gib, dedicated_to, state <> 'up' AS is_down FROM node WHERE site_code = ? ORDER BY id",
    [siteCode],
  );
  return rows.map((row) => ({
    id: row.id,
    zone: row.zone,
    vcpu: row.vcpu,
    memoryGiB: row.memory_gib,
    diskGiB: row.disk_gib,
    isDown: row.is_down === 1,
    dedicatedTo:
      row.dedicated_to === null ? undefined : row.dedicated_to === customer.code ? customer.code : OTHER,
  }));
}

/** What is taken of a site, one entry a node: the customer's own by pool, all others as one. */
async function takenAt(
  connection: Connection,
  { customer }: CustomerScope,
  siteCode: string,
  sizes: readonly MachineSize[],
): Promise<Placed[]> {
  const rows = await connection.rows<{
    node: string | null;
    size: string | null;
    pool: string;
    own: number;
    vcpu: string;
    memory_gib: string;
    disk_gib: string;
  }>(
    `SELECT node, IF(node IS NULL, JSON_VALUE(attributes, '$.size'), NULL) AS size, IF(customer_id = ?, SUBSTRING_INDEX(SUBSTRING_INDEX(resource_key, ':', 2), ':', -1), '') AS pool,
       customer_id = ? AS own, SUM(vcpu) AS vcpu, SUM(memory_gib) AS memory_gib, SUM(disk_gib) AS disk_gib
     FROM resource WHERE site_code = ? AND returned_at IS NULL AND vcpu > 0
     GROUP BY 1, 2, 3, 4`,
    [customer.id, customer.id, siteCode],
  );
  return rows.map((row, index) => ({
    id: `present ${index}`,
    customer: row.own === 1 ? customer.code : '',
    pool: row.own === 1 ? `${customer.code}/${row.pool}` : '',
    node: row.node ?? familyOf(sizes, row.size),
    vcpu: Number(row.vcpu),
    memoryGiB: Number(row.memory_gib),
    diskGiB: Number(row.disk_gib),
  }));
}

const unused = ({ vcpu, families, others }: Quota): Quota => ({
  vcpu,
  vcpuUsed: 0,
  ...(families ? { families: families.map((one) => ({ ...one, vcpuUsed: 0 })) } : {}),
  ...(others ? { others: others.map((one) => ({ ...one, used: 0 })) } : {}),
});

/** Where nodes are not seen, what stands is told by the family of its size. */
const familyOf = (sizes: readonly MachineSize[], size: string | null): string =>
  sizes.find(({ key }) => key === size)?.family ?? '';

/** What hosts take that nobody asked for, or that outlived what asked for them: the provider counts them all the same. */
async function straysAt(
  connection: Connection,
  siteCode: string,
  sizes: readonly MachineSize[],
): Promise<Placed[]> {
  const rows = await connection.rows<{
    node: string | null;
    size: string | null;
    hosts: number;
    disk: string;
  }>(
    `SELECT p.node, p.size, COUNT(*) AS hosts, SUM(COALESCE(JSON_VALUE(p.attributes, '$.diskGiB'), 0)) AS disk
     FROM present_resource p
     LEFT JOIN resource r ON r.customer_id = p.customer_id AND r.id = p.resource_id AND r.returned_at IS NULL
     WHERE p.kind = 'host' AND p.site_code = ? AND p.present_condition <> 'gone' AND r.id IS NULL
     GROUP BY p.node, p.size`,
    [siteCode],
  );
  return rows.map((row) => {
    const size = sizes.find((one) => one.key === row.size);
    return {
      ...NOBODYS,
      node: row.node ?? size?.family ?? '',
      vcpu: (size?.vcpu ?? 0) * row.hosts,
      memoryGiB: (size?.memoryGiB ?? 0) * row.hosts,
      diskGiB: Number(row.disk),
    };
  });
}

const NOBODYS = { id: '', customer: '', pool: '' } as const;

/** One entry a node for all that is not the customer's own: which hosts of others, and of what size, is not told. */
function asOne(placed: readonly Placed[]): Placed[] {
  const others = placed.filter((one) => one.customer === '');
  const nodes = [...new Set(others.map((one) => one.node))].sort();
  const on = (node: string | null, amount: 'vcpu' | 'memoryGiB' | 'diskGiB'): number =>
    others.filter((one) => one.node === node).reduce((sum, one) => sum + one[amount], 0);
  const merged = nodes.map((node) => ({
    ...NOBODYS,
    node,
    vcpu: on(node, 'vcpu'),
    memoryGiB: on(node, 'memoryGiB'),
    diskGiB: on(node, 'diskGiB'),
  }));
  return [...placed.filter((one) => one.customer !== ''), ...merged].map((one, index) => ({
    ...one,
    id: `present ${index}`,
  }));
}
