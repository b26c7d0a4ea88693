import { code as currencyOf } from 'currency-codes';
import type { NewVersion } from '../../contract';
import type { Scope } from '../access';
import type { Connection } from '../db';
import { unusable } from '../problem';
import { write, type WriteHouse } from '../write';
import { planVersionsOf } from './read';

/**
 * Makes a plan, or a further version of one.
 * @param version whose `from` is now where it is left out
 * @returns its number @throws Problem 422 beside the field that cannot be used
 */
export async function keepPlan(
  house: WriteHouse,
  scope: Scope,
  code: string,
  { name, from, note, ...terms }: NewVersion,
): Promise<{ version: number }> {
  const now = house.clock.now();
  const begins = from ?? now;
  if (begins < now) throw unusable('from', 'is over: what was sold then was sold as it was');
  for (const [index, fee] of terms.fees.entries())
    if (!currencyOf(fee.currency)) throw unusable(`fees.${index}.currency`, 'is no currency of ISO 4217');
  return write(house, scope, [], async (tx) => {
    await refuseUnknown(tx, terms);
    // Written first: two at once do not come to the same number.
    await tx.write(
      'INSERT INTO plan (code, name) VALUES (?, ?) ON DUPLICATE KEY UPDATE name = VALUES(name)',
      [code, name],
    );
    const [before] = await planVersionsOf(tx, code);
    if (before && begins < before.from)
      throw unusable('from', `version ${before.version} begins later; this one has to begin after it`);
    const version = (before?.version ?? 0) + 1;
    await tx.write(
      'INSERT INTO plan_version (plan_code, version, from_at, terms, note) VALUES (?, ?, ?, ?, ?)',
      [code, version, begins, JSON.stringify(terms), note],
    );
    await tx.record({
      action: before ? 'add plan version' : 'make plan',
      subject: `${name} ${version}`,
      before: before && { name: before.name, ...before.terms },
      after: { name, ...terms, from: begins, note },
      topic: 'ground',
      id: code,
    });
    return { version };
  });
}

/** What no site has cannot be sold. */
async function refuseUnknown(
  tx: Connection,
  { sizes, sites }: Pick<NewVersion, 'sizes' | 'sites'>,
): Promise<void> {
  const known = await tx.rows<{ code: string; sizes: string }>('SELECT code, sizes FROM site');
  const site = sites.find((code) => !known.some((one) => one.code === code));
  if (site !== undefined) throw unusable('sites', `there is no site ${site}`);
  const offered = new Set(
    known.flatMap((one) => (JSON.parse(one.sizes) as { key: string }[]).map((size) => size.key)),
  );
  const size = sizes.find((key) => !offered.has(key));
  if (size !== undefined) throw unusable('sizes', `no site has a size ${size}`);
}
