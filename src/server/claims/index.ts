import { quotasIn, SPACES, valuesIn, type Claim } from '../../core/resources';
import type { CustomerScope } from '../access';
import { DatabaseError, type Connection } from '../db';
import { conflict } from '../problem';
import type { Tx } from '../write';

/* What is scarce and who has it: values that only one can have, and what is taken of quotas. It is noted when it is wanted. */

/** How a space stands in the table: with what it is within. */
const stored = (space: string, within: string): string => (within === '' ? space : `${space} ${within}`);

/** The values that a customer has, by space. Its addresses are not among them: those are told with its hosts. */
export async function takenBy(
  connection: Connection,
  { customer }: CustomerScope,
): Promise<Record<string, string[]>> {
  const rows = await connection.rows<{ space: string; value: string }>(
    'SELECT space, value FROM allocation WHERE customer_id = ? AND space <> ? ORDER BY space, value',
    [customer.id, SPACES.address],
  );
  const taken: Record<string, string[]> = {};
  for (const { space, value } of rows) {
    const [name = ''] = space.split(' ');
    (taken[name] ??= []).push(value);
  }
  return taken;
}

/** What is taken of each quota of a site beside that of vCPU, by all customers together. */
export const quotasTakenAt = async (
  connection: Connection,
  site: string,
): Promise<{ readonly of: string; readonly amount: number }[]> =>
  (
    await connection.rows<{ of: string; amount: string }>(
      'SELECT quota AS of, SUM(amount) AS amount FROM quota_claim WHERE site_code = ? GROUP BY quota',
      [site],
    )
  ).map(({ of, amount }) => ({ of, amount: Number(amount) }));

/** What a resource has claimed, and claims now. */
export interface Claimed {
  readonly id: string;
  readonly site: string;
  readonly before: readonly Claim[];
  readonly after: readonly Claim[];
}

/**
 * Notes what a resource takes, so that nobody else gets it. A value that it claims no more stays its own until the resource is
 * given back. Of a quota it has what it claims now.
 * @throws Problem 409 for a value that another has
 */
export async function claim(
  tx: Tx,
  { customer }: CustomerScope,
  { id, site, before, after }: Claimed,
): Promise<void> {
  const had = new Set(valuesIn(before).map(({ space, within, value }) => stored(space, within) + value));
  for (const { space, within, value } of valuesIn(after)) {
    if (had.has(stored(space, within) + value)) continue;
    await unlessTaken(
      value,
      tx.write('INSERT INTO allocation (space, value, customer_id, resource_id) VALUES (?, ?, ?, ?)', [
        stored(space, within),
        value,
        customer.id,
        id,
      ]),
    );
  }
  for (const { of, amount } of quotasIn(after.filter(({ takes }) => takes === 'quota')))
    await tx.write(
      `INSERT INTO quota_claim (customer_id, resource_id, quota, site_code, amount) VALUES (?, ?, ?, ?, ?)
       ON DUPLICATE KEY UPDATE amount = VALUES(amount)`,
      [customer.id, id, of, site, amount],
    );
}

async function unlessTaken(value: string, writing: Promise<unknown>): Promise<void> {
  try {
    await writing;
  } catch (error) {
    if (error instanceof DatabaseError && error.isDuplicate) throw conflict('taken', `${value} is taken.`);
    throw error;
  }
}

/** Gives back all that a resource took. */
export async function giveBack(tx: Connection, customerId: string, resourceId: string): Promise<void> {
  for (const table of ['allocation', 'quota_claim'])
    await tx.write(`DELETE FROM ${table} WHERE customer_id = ? AND resource_id = ?`, [
      customerId,
      resourceId,
    ]);
}

/** Gives back all that an environment's resources took. */
export async function giveBackAll(
  tx: Connection,
  { customer }: CustomerScope,
  environment: string,
): Promise<void> {
  for (const table of ['allocation', 'quota_claim'])
    await tx.write(
      `DELETE a FROM ${table} a JOIN resource r ON (r.customer_id, r.id) = (a.customer_id, a.resource_id)
       WHERE r.customer_id = ? AND r.environment_id = ?`,
      [customer.id, environment],
    );
}

/**
 * Which row `a` of `allocation` says that a host of the ready shelf is taken: from the moment in which that was begun.
 * @param site the column that holds its site
 * @param ref the column that holds its provider's name for it
 */
export const isReadyTaken = (site: string, ref: string): string =>
  `a.space = CONCAT('${SPACES.ready} ', ${site}) AND a.value = ${ref}`;
