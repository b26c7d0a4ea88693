import type { AddressRange, GivenBlock, Kept } from '../../contract';
import {
  contains,
  overlaps,
  parseBlock,
  sizeOf,
  spaceLeft,
  writeBlock,
  type Block,
} from '../../core/addressing';
import { reachable, type Scope } from '../access';
import { sql, type Connection } from '../db';

interface Held {
  readonly block: Block;
  readonly customer: string | null;
  readonly used: number;
}

/** The MSP's address ranges, which blocks of them customers in reach hold, what is kept clear, and what is left. */
export async function addressSpace(
  db: Connection,
  scope: Scope,
): Promise<{ ranges: AddressRange[]; kept: Kept[] }> {
  const [ranges, given, subnets, kept] = await Promise.all([
    db.rows<{ site: string; cidr: string; closed: number }>(
      "SELECT site_code AS site, cidr, closed FROM address_range ORDER BY site_code, INET_ATON(SUBSTRING_INDEX(cidr, '/', 1))",
    ),
    db.rows<{ id: string; site: string; cidr: string; customer: string | null }>(
      sql`SELECT b.customer_id AS id, b.site_code AS site, b.cidr, IF(${reachable(scope, 'b.customer_id')}, c.code, NULL) AS customer
          FROM address_block b JOIN customer c ON c.id = b.customer_id WHERE b.returned_at IS NULL`,
    ),
    db.rows<{ id: string; cidr: string }>(
      sql`SELECT customer_id AS id, value AS cidr FROM allocation WHERE space LIKE 'subnet%'`,
    ),
    keptFor(db, scope),
  ]);
  const subnetsOf = new Map<string, Block[]>();
  for (const { id, cidr } of subnets) {
    const block = parseBlock(cidr);
    if (block.ok) subnetsOf.set(id, [...(subnetsOf.get(id) ?? []), block.value]);
  }
  const held = given.flatMap(({ id, site, cidr, customer }) => {
    const block = parseBlock(cidr);
    if (!block.ok) return [];
    const inside = (subnetsOf.get(id) ?? []).filter((one) => contains(block.value, one));
    const used = inside.reduce((sum, one) => sum + sizeOf(one), 0) / sizeOf(block.value);
    return [{ site, block: block.value, customer, used }];
  });
  return {
    kept,
    ranges: ranges.flatMap(({ site, cidr, closed }) => {
      const range = parseBlock(cidr);
      if (!range.ok) return [];
      const here = held.filter((one) => one.site === site && overlaps(one.block, range.value));
      return [viewOf(site, range.value, closed === 1, here, kept)];
    }),
  };
}

/** What is kept clear, as it is told to someone: whose it is, only to those who reach every customer. */
export const keptFor = async (db: Connection, { customers }: Scope): Promise<Kept[]> =>
  (await listKept(db)).map((one) => (customers ? { ...one, name: 'in use elsewhere' } : one));

/** What is kept clear, in order of address. */
export const listKept = (db: Connection): Promise<Kept[]> =>
  db.rows<Kept>("SELECT cidr, name FROM kept_clear ORDER BY INET_ATON(SUBSTRING_INDEX(cidr, '/', 1)), cidr");

function viewOf(
  site: string,
  range: Block,
  closed: boolean,
  held: readonly Held[],
  kept: readonly Kept[],
): AddressRange {
  const here = kept.filter(({ cidr }) => {
    const block = parseBlock(cidr);
    return block.ok && overlaps(block.value, range);
  });
  const clear = here.flatMap(({ cidr }) => {
    const block = parseBlock(cidr);
    return block.ok ? [block.value] : [];
  });
  const taken = [...held.map((one) => one.block), ...clear];
  const left = spaceLeft(range, taken);
  const others = held.filter((one) => one.customer === null).length;
  return {
    site,
    cidr: writeBlock(range),
    closed,
    given: held
      .flatMap(({ block, customer, used }): (GivenBlock & { base: number })[] =>
        customer === null ? [] : [{ cidr: writeBlock(block), customer, used, base: block.base }],
      )
      .sort((a, b) => a.base - b.base)
      .map(({ base: _base, ...block }) => block),
    others,
    kept: here,
    full: left.taken / left.total,
    largestFree: left.largest ? writeBlock(left.largest) : null,
    fragmentation: left.fragmentation,
  };
}
