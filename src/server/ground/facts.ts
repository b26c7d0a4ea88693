import { bestFit, parseBlock, type Block } from '../../core/addressing';
import type { PlanLimits, ProvisionGround, SiteGround } from '../../core/ground';
import type { Node, Placed } from '../../core/placement';
import type { MachineSize } from '../../core/sizing';
import type { CustomerScope } from '../access';
import type { App } from '../app';
import type { Connection } from '../db';
import { notFound } from '../problem';
import { ratesOf } from './rates';
import { OTHER } from './read';

/** A customer's block at a site: 4096 addresses, room for many pools. */
const BLOCK_PREFIX = 20;

export interface FullGround extends ProvisionGround {
  /** Whether the block is not given to the customer yet; it will be with the first environment here. */
  readonly blockIsNew: boolean;
}

/**
 * The facts that a proposal for a customer at a site is computed from. Of other customers it holds only how much of
 * each node they take together.
 */
export async function provisionGround(
  app: App,
  connection: Connection,
  scope: CustomerScope,
  siteCode: string,
  directory: DirectorySays,
): Promise<FullGround> {
  const customer = await customerFacts(connection, scope, siteCode);
  const site = await siteFacts(connection, scope, siteCode, directory);
  const given = customer.blocks.find((block) => block.site === siteCode);
  const block = given ? blockOf(given.cidr) : await freeBlock(connection, siteCode);
  return {
    now: app.clock.now(),
    blockIsNew: !given,
    rates: await ratesOf(connection, customer.card),
    site,
    customer: {
      code: scope.customer.code,
      currency: customer.currency,
      zone: customer.zone,
      state: customer.state,
      plan: customer.plan,
      hosts: customer.hosts,
      people: customer.people,
      block,
      subnets: customer.subnets.flatMap((cidr) => blockOf(cidr) ?? []),
      namesTaken: customer.names,
      environments: customer.environments,
    },
  };
}

function blockOf(cidr: string): Block | undefined {
  const block = parseBlock(cidr);
  return block.ok ? block.value : undefined;
}

/** What a customer's directory says of itself. */
export type DirectorySays = SiteGround['directory'];

/** Asks the customer's directory, which may take a while: never while holding anyone's turn. */
export async function askDirectory(app: App, { customer }: CustomerScope): Promise<DirectorySays> {
  const row = await app.db.row<{ realm: string }>('SELECT realm FROM customer WHERE id = ?', [customer.id]);
  if (!row) throw notFound('customer');
  return app.directory.check(row.realm);
}

/** A block of the site's ranges that no customer holds, at any site: blocks may be peered one day. */
async function freeBlock(connection: Connection, siteCode: string): Promise<Block | undefined> {
  const ranges = await connection.rows<{ cidr: string }>(
    'SELECT cidr FROM address_range WHERE site_code = ?',
    [siteCode],
  );
  const taken = await connection.rows<{ cidr: string }>(
    'SELECT cidr FROM address_block WHERE returned_at IS NULL',
  );
  return bestFit(
    ranges.flatMap(({ cidr }) => blockOf(cidr) ?? []),
    taken.flatMap(({ cidr }) => blockOf(cidr) ?? []),
    BLOCK_PREFIX,
  );
}

interface CustomerFacts {
  readonly currency: string;
  readonly zone: string;
  readonly state: string;
  readonly card: string;
  readonly plan: PlanLimits;
  readonly hosts: number;
  readonly people: number;
  readonly blocks: readonly { readonly site: string; readonly cidr: string }[];
  readonly subnets: readonly string[];
  readonly names: readonly string[];
  readonly environments: readonly string[];
}

async function customerFacts(
  connection: Connection,
  { customer: { id } }: CustomerScope,
  siteCode: string,
): Promise<CustomerFacts> {
  const row = await connection.row<{
    currency: string;
    zone: string;
    state: string;
    card_code: string;
    plan: string;
    most_hosts: number;
    most_people: number;
    sizes: string;
    people: number;
  }>(
    `SELECT c.currency, c.zone, c.state, c.card_code, p.name AS plan, p.most_hosts, p.most_people, p.sizes,
       (SELECT COUNT(*) FROM person x WHERE x.customer_id = c.id) AS people
     FROM customer c JOIN plan p ON p.code = c.plan_code WHERE c.id = ?`,
    [id],
  );
  if (!row) throw notFound('customer');
  const hosts = await connection.rows<{ name: string }>(
    'SELECT name FROM host WHERE customer_id = ? AND returned_at IS NULL',
    [id],
  );
  const subnets = await connection.rows<{ subnet_cidr: string }>(
    `SELECT p.subnet_cidr FROM pool p JOIN environment e ON (e.customer_id, e.id) = (p.customer_id, p.environment_id)
     WHERE p.customer_id = ? AND e.site_code = ? AND p.returned_at IS NULL`,
    [id, siteCode],
  );
  const environments = await connection.rows<{ name: string }>(
    'SELECT name FROM environment WHERE customer_id = ? AND retired_at IS NULL',
    [id],
  );
  const blocks = await connection.rows<{ site: string; cidr: string }>(
    'SELECT site_code AS site, cidr FROM address_block WHERE customer_id = ? AND returned_at IS NULL',
    [id],
  );
  return {
    currency: row.currency,
    zone: row.zone,
    state: row.state,
    card: row.card_code,
    plan: {
      name: row.plan,
      mostHosts: row.most_hosts,
      mostPeople: row.most_people,
      sizes: JSON.parse(row.sizes) as string[],
    },
    hosts: hosts.length,
    people: row.people,
    blocks,
    subnets: subnets.map((one) => one.subnet_cidr),
    names: hosts.map((one) => one.name),
    environments: environments.map((one) => one.name),
  };
}

async function siteFacts(
  connection: Connection,
  scope: CustomerScope,
  siteCode: string,
  directory: DirectorySays,
): Promise<SiteGround> {
  const site = await connection.row<{
    name: string;
    kind: SiteGround['kind'];
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
  const present = await presentAt(connection, scope, siteCode, sizes);
  const quota =
    site.quota === null ? undefined : (JSON.parse(site.quota) as { vcpu: number; vcpuUsed: number });
  return {
    code: siteCode,
    name: site.name,
    kind: site.kind,
    reservedAddresses: site.reserved_addresses,
    sizes,
    images: JSON.parse(site.images) as string[],
    nodes: await nodesAt(connection, scope, siteCode),
    present,
    // What is wanted but not built yet counts too, or two runs would take the same quota.
    quota: quota && { vcpu: quota.vcpu, vcpuUsed: present.reduce((sum, host) => sum + host.vcpu, 0) },
    signIn: { worked: site.sign_in_works === 1, says: site.sign_in_says },
    directory,
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
  }>(
    "SELECT id, zone, vcpu, memory_gib, disk_gib, dedicated_to FROM node WHERE site_code = ? AND state = 'up' ORDER BY id",
    [siteCode],
  );
  return rows.map((row) => ({
    id: row.id,
    zone: row.zone,
    vcpu: row.vcpu,
    memoryGiB: row.memory_gib,
    diskGiB: row.disk_gib,
    dedicatedTo:
      row.dedicated_to === null ? undefined : row.dedicated_to === customer.code ? customer.code : OTHER,
  }));
}

/** What stands at a site or is about to, one entry a node and size: the customer's own by pool, all others as one. */
async function presentAt(
  connection: Connection,
  { customer }: CustomerScope,
  siteCode: string,
  sizes: readonly MachineSize[],
): Promise<Placed[]> {
  const rows = await connection.rows<{
    node: string | null;
    size: string;
    pool: string;
    own: number;
    hosts: number;
    disk_gib: string;
  }>(
    `SELECT h.node, p.size, IF(h.customer_id = ?, p.name, '') AS pool, h.customer_id = ? AS own, COUNT(*) AS hosts,
       SUM(p.disk_gib) AS disk_gib
     FROM host h JOIN pool p ON (p.customer_id, p.id) = (h.customer_id, h.pool_id)
       JOIN environment e ON (e.customer_id, e.id) = (p.customer_id, p.environment_id)
     WHERE e.site_code = ? AND h.returned_at IS NULL
     GROUP BY h.node, p.size, IF(h.customer_id = ?, p.name, ''), h.customer_id = ?`,
    [customer.id, customer.id, siteCode, customer.id, customer.id],
  );
  return rows.map((row, index) => {
    const size = sizes.find((one) => one.key === row.size);
    return {
      id: `present ${index}`,
      customer: row.own === 1 ? customer.code : '',
      pool: row.own === 1 ? `${customer.code}/${row.pool}` : '',
      node: row.node ?? '',
      vcpu: (size?.vcpu ?? 0) * row.hosts,
      memoryGiB: (size?.memoryGiB ?? 0) * row.hosts,
      diskGiB: Number(row.disk_gib),
    };
  });
}
