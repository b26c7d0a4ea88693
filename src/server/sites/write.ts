import { isPrivate, parseBlock, overlaps, writeBlock } from '../../core/addressing';
import type { Scope } from '../access';
import { notFound, Problem } from '../problem';
import { write, type WriteHouse } from '../write';

/**
 * Gives a site a range of addresses to hand out blocks of.
 * @throws Problem 404, 422 when it is no private range (RFC 1918) or overlaps another site's
 */
export async function addRange(house: WriteHouse, scope: Scope, site: string, cidr: string): Promise<void> {
  const range = parseBlock(cidr);
  const refuse = (why: string): Problem =>
    new Problem(422, 'range', 'The range cannot be used.', { fields: { cidr: why } });
  if (!range.ok) throw refuse(range.problem);
  if (!isPrivate(range.value)) throw refuse('is not private (RFC 1918)');
  await write(house, scope, [{ table: 'site', key: { code: site } }], async (tx) => {
    if (!(await tx.row('SELECT code FROM site WHERE code = ?', [site]))) throw notFound('site');
    const known = await tx.rows<{ site_code: string; cidr: string }>(
      'SELECT site_code, cidr FROM address_range',
    );
    for (const other of known) {
      const block = parseBlock(other.cidr);
      if (block.ok && overlaps(block.value, range.value))
        throw refuse(`overlaps ${other.cidr} of ${other.site_code}`);
    }
    const text = writeBlock(range.value);
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
