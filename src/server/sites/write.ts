import type { ChangedRange, Kept } from '../../contract';
import {
  contains,
  growBlock,
  isPrivate,
  overlaps,
  parseBlock,
  writeBlock,
  type Block,
} from '../../core/addressing';
import type { CustomerScope, Scope } from '../access';
import type { Connection } from '../db';
import { conflict, notFound, unusable } from '../problem';
import { lockSites } from '../providers';
import { write, type WriteHouse } from '../write';
import { keptFor, listKept } from './addresses';
import { blockOf } from './facts';

/** @throws Problem 422 beside the field when it cannot be read or is not private (RFC 1918) */
function privateBlock(text: string, field: string): Block {
  const block = parseBlock(text);
  if (!block.ok) throw unusable(field, block.problem);
  if (!isPrivate(block.value)) throw unusable(field, 'is not private (RFC 1918)');
  return block.value;
}

/** What else is said of addresses that a block overlaps, by name: ranges, and what is kept clear. */
async function overlapSays(
  tx: Connection,
  scope: Scope,
  block: Block,
  but: string | undefined,
): Promise<string | undefined> {
  const ranges = await tx.rows<{ cidr: string; name: string }>(
    'SELECT cidr, site_code AS name FROM address_range',
  );
  const other = [...ranges.filter(({ cidr }) => cidr !== but), ...(await keptFor(tx, scope))].find(
    ({ cidr }) => {
      const known = blockOf(cidr);
      return known && overlaps(known, block);
    },
  );
  return other && `overlaps ${other.cidr} of ${other.name}`;
}

/**
 * Gives a site a range of addresses to hand out blocks of.
 * @throws Problem 404, 422 when it is no private range (RFC 1918) or overlaps another, which is named
 */
export async function addRange(house: WriteHouse, scope: Scope, site: string, cidr: string): Promise<void> {
  const range = privateBlock(cidr, 'cidr');
  await write(house, scope, [{ table: 'site', key: { code: site } }], async (tx) => {
    if (!(await tx.row('SELECT code FROM site WHERE code = ?', [site]))) throw notFound('site');
    const overlap = await overlapSays(tx, scope, range, undefined);
    if (overlap !== undefined) throw unusable('cidr', overlap);
    const text = writeBlock(range);
    await tx.write('INSERT INTO address_range (site_code, cidr) VALUES (?, ?)', [site, text]);
    await tx.record({
      action: 'add address range',
      subject: site,
      after: { cidr: text },
      topic: 'ground',
      id: site,
    });
  });
}

const rangeOf = (tx: Connection, site: string, cidr: string): Promise<{ closed: number } | undefined> =>
  tx.row<{ closed: number }>('SELECT closed FROM address_range WHERE site_code = ? AND cidr = ?', [
    site,
    cidr.trim(),
  ]);

/**
 * Makes a range larger, closes it (nothing more is given of it) or opens it again.
 * @throws Problem 404, 422 beside `becomes` when it does not hold the range, or overlaps another
 */
export async function changeRange(
  house: WriteHouse,
  scope: Scope,
  site: string,
  { cidr, becomes, closed }: ChangedRange,
): Promise<{ cidr: string }> {
  return write(house, scope, [{ table: 'site', key: { code: site } }], async (tx) => {
    const before = await rangeOf(tx, site, cidr);
    if (!before) throw notFound('range');
    const after = { cidr, closed: closed ?? before.closed === 1 };
    if (becomes !== null) {
      const larger = privateBlock(becomes, 'becomes');
      const range = blockOf(cidr);
      if (!range || !contains(larger, range)) throw unusable('becomes', `does not hold all of ${cidr}`);
      const overlap = await overlapSays(tx, scope, larger, cidr);
      if (overlap !== undefined) throw unusable('becomes', overlap);
      after.cidr = writeBlock(larger);
    }
    await tx.write('UPDATE address_range SET cidr = ?, closed = ? WHERE site_code = ? AND cidr = ?', [
      after.cidr,
      after.closed,
      site,
      cidr,
    ]);
    await tx.record({
      action: 'change address range',
      subject: site,
      before: { cidr, closed: before.closed === 1 },
      after,
      topic: 'ground',
      id: site,
    });
    return { cidr: after.cidr };
  });
}

/** Takes a range away. @throws Problem 404, 409 when blocks of it are given */
export const removeRange = (house: WriteHouse, scope: Scope, site: string, cidr: string): Promise<void> =>
  write(house, scope, [{ table: 'site', key: { code: site } }], async (tx) => {
    if (!(await rangeOf(tx, site, cidr))) throw notFound('range');
    const range = blockOf(cidr);
    const given = (await blocksAt(tx, site)).filter(({ block }) => range && overlaps(range, block)).length;
    if (given > 0)
      throw conflict(
        'given',
        `${given === 1 ? 'A block of it is' : `${given} blocks of it are`} given. Close it.`,
      );
    await tx.write('DELETE FROM address_range WHERE site_code = ? AND cidr = ?', [site, cidr]);
    await tx.record({
      action: 'remove address range',
      subject: site,
      before: { cidr },
      topic: 'ground',
      id: site,
    });
  });

/**
 * Keeps addresses clear that are in use elsewhere.
 * @throws Problem 422 when they cannot be read, or a customer's block lies there, who is named
 */
export const keepClear = (house: WriteHouse, scope: Scope, { cidr, name }: Kept): Promise<Kept> => {
  const block = parseBlock(cidr);
  if (!block.ok) throw unusable('cidr', block.problem);
  return write(house, scope, [], async (tx) => {
    // The sites are written first: whoever gives a block there at this moment does so before, or finds this.
    await lockSites(tx);
    const given = (await blocksAt(tx)).find((one) => overlaps(one.block, block.value));
    if (given) throw unusable('cidr', `overlaps ${givenSays(scope, given)}`);
    const other = (await keptFor(tx, scope)).find((one) => {
      const known = blockOf(one.cidr);
      return known && overlaps(known, block.value);
    });
    if (other) throw unusable('cidr', `overlaps ${other.cidr} of ${other.name}`);
    const kept = { cidr: writeBlock(block.value), name };
    await tx.write('INSERT INTO kept_clear (cidr, name) VALUES (?, ?)', [kept.cidr, kept.name]);
    await tx.record({
      action: 'keep addresses clear',
      subject: name,
      after: kept,
      topic: 'ground',
      id: kept.cidr,
    });
    return kept;
  });
};

/** A block and its holder, to whom both are in reach. */
const givenSays = ({ customers }: Scope, { block, customer, id }: Given): string =>
  customers && !customers.has(id) ? 'a block of another customer' : `${writeBlock(block)} of ${customer}`;

/** Keeps addresses clear no longer. @throws Problem 404 */
export const giveUpClear = (house: WriteHouse, scope: Scope, cidr: string): Promise<void> =>
  write(house, scope, [], async (tx) => {
    const row = await tx.row<{ name: string }>('SELECT name FROM kept_clear WHERE cidr = ?', [cidr]);
    if (!row) throw notFound('block');
    await tx.write('DELETE FROM kept_clear WHERE cidr = ?', [cidr]);
    await tx.record({
      action: 'keep addresses clear no longer',
      subject: row.name,
      before: { cidr, name: row.name },
      topic: 'ground',
      id: cidr,
    });
  });

interface Given {
  readonly block: Block;
  readonly id: string;
  readonly customer: string;
  readonly site: string;
}

/** The blocks that are given, at a site or at all of them. */
async function blocksAt(tx: Connection, site?: string): Promise<Given[]> {
  const rows = await tx.rows<{ cidr: string; id: string; customer: string; site: string }>(
    `SELECT b.cidr, c.id, c.code AS customer, b.site_code AS site FROM address_block b JOIN customer c ON c.id = b.customer_id
     WHERE b.returned_at IS NULL`,
  );
  return rows.flatMap(({ cidr, ...row }) => {
    const block = blockOf(cidr);
    return block && (site === undefined || row.site === site) ? [{ block, ...row }] : [];
  });
}

/**
 * Makes a customer's block twice as large, where it lies. Its network follows with the next change there.
 * @throws Problem 404 when it has none there, 409 when something is in the way
 */
export const enlargeBlock = (
  house: WriteHouse,
  scope: CustomerScope,
  site: string,
): Promise<{ site: string; cidr: string }> => {
  const { id, code } = scope.customer;
  const locks = [
    { table: 'customer', key: { id } },
    { table: 'site', key: { code: site } },
  ] as const;
  return write(house, scope, locks, async (tx) => {
    const row = await tx.row<{ id: string; cidr: string }>(
      'SELECT id, cidr FROM address_block WHERE customer_id = ? AND site_code = ? AND returned_at IS NULL',
      [id, site],
    );
    const block = row && blockOf(row.cidr);
    if (!block) throw notFound('block');
    const ranges = await tx.rows<{ cidr: string }>(
      'SELECT cidr FROM address_range WHERE site_code = ? AND NOT closed',
      [site],
    );
    const range = ranges.flatMap(({ cidr }) => blockOf(cidr) ?? []).find((one) => contains(one, block));
    if (!range) throw conflict('closed', `The range that ${row.cidr} lies in is closed.`);
    // At every site: networks of two sites may be joined.
    const others = (await blocksAt(tx)).filter((one) => writeBlock(one.block) !== row.cidr);
    const clear = (await listKept(tx)).flatMap(({ cidr }) => blockOf(cidr) ?? []);
    const grown = growBlock(block, range, [...others.map((one) => one.block), ...clear]);
    // Whose they are is theirs to know.
    if (!grown.ok)
      throw conflict(
        'in-the-way',
        `The addresses beside ${row.cidr} are given, kept clear, or not of the range.`,
      );
    const cidr = writeBlock(grown.value);
    await tx.write('UPDATE address_block SET cidr = ? WHERE customer_id = ? AND id = ?', [cidr, id, row.id]);
    await tx.record({
      action: 'enlarge address block',
      subject: `${code} at ${site}`,
      before: { cidr: row.cidr },
      after: { cidr },
      topic: 'ground',
      id: code,
    });
    return { site, cidr };
  });
};

/** Gives back what a customer had of the addresses. @returns what that was, in words */
export async function returnBlocks(
  tx: Connection,
  { customer }: CustomerScope,
  now: number,
): Promise<string[]> {
  const blocks = await tx.rows<{ cidr: string; site_code: string }>(
    'SELECT cidr, site_code FROM address_block WHERE customer_id = ? AND returned_at IS NULL',
    [customer.id],
  );
  await tx.write('UPDATE address_block SET returned_at = ? WHERE customer_id = ? AND returned_at IS NULL', [
    now,
    customer.id,
  ]);
  return blocks.map(({ cidr, site_code }) => `${cidr} at ${site_code}`);
}
