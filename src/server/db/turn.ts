import type { Connection, Value } from './query';

export type Turned = 'customer' | 'site' | 'environment' | 'run';

/**
 * Takes a row's turn, first thing in a transaction: until it ends, nobody else decides by what hangs on that row. The
 * row is written, not only locked: servers of a replicated cluster do not share locks, but of two transactions that
 * wrote the same row one is refused there and does its whole again.
 * @param key columns and values that name one row; written by us, never read from outside
 */
export async function takeTurn(
  connection: Connection,
  table: Turned,
  key: Readonly<Record<string, Value>>,
): Promise<void> {
  const where = Object.keys(key)
    .map((column) => `${column} = ?`)
    .join(' AND ');
  await connection.write(`UPDATE ${table} SET turn = turn + 1 WHERE ${where}`, Object.values(key));
}
