import type { AddressRange } from '../../contract';
import { overlaps, parseBlock, sizeOf, spaceLeft, writeBlock, type Block } from '../../core/addressing';
import { reachable, type Scope } from '../access';
import { sql, type Connection } from '../db';

/** The MSP's address ranges, which blocks of them customers in reach hold, and what is left. */
export async function addressSpace(db: Connection, scope: Scope): Promise<AddressRange[]> {
  const ranges = await db.rows<{ site: string; cidr: string }>(
    "SELECT site_code AS site, cidr FROM address_range ORDER BY site_code, INET_ATON(SUBSTRING_INDEX(cidr, '/', 1))",
  );
  const given = await db.rows<{ site: string; cidr: string; customer: string | null }>(
    sql`SELECT b.site_code AS site, b.cidr, IF(${reachable(scope, 'b.customer_id')}, c.code, NULL) AS customer
     FROM address_block b JOIN customer c ON c.id = b.customer_id WHERE b.returned_at IS NULL`,
  );
  return ranges.flatMap(({ site, cidr }) => {
    const range = parseBlock(cidr);
    if (!range.ok) return [];
    const blocks = given
      .filter((one) => one.site === site)
      .flatMap((one) => {
        const block = parseBlock(one.cidr);
        return block.ok && overlaps(block.value, range.value)
          ? [{ block: block.value, customer: one.customer }]
          : [];
      });
    return [viewOf(site, range.value, blocks)];
  });
}

function viewOf(
  site: string,
  range: Block,
  blocks: readonly { readonly block: Block; readonly customer: string | null }[],
): AddressRange {
  const left = spaceLeft(
    range,
    blocks.map((one) => one.block),
  );
  return {
    site,
    cidr: writeBlock(range),
    given: blocks
      .flatMap(({ block, customer }) =>
        customer === null
          ? []
          : [
              {
                cidr: writeBlock(block),
                customer,
                from: (block.base - range.base) / left.total,
                part: sizeOf(block) / left.total,
              },
            ],
      )
      .sort((a, b) => a.from - b.from),
    others: blocks.filter((one) => one.customer === null).length,
    full: left.taken / left.total,
    largestFree: left.largest ? writeBlock(left.largest) : null,
    fragmentation: left.fragmentation,
  };
}
