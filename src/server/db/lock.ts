import type { Connection, Value } from './query';

const ORDER = ['customer', 'site', 'environment', 'parent_run', 'run', 'resource'] as const;

/** One row that decisions hang on. */
export interface Lock {
  readonly table: (typeof ORDER)[number];
  /** Columns and values that name the row; the columns are written by us, never read from outside. */
  readonly key: Readonly<Record<string, Value>>;
}

/**
 * Takes locks, first thing in a transaction and always in one order: until it ends, nobody else decides by what hangs on
 * those rows. A row is written, not only locked: servers of a replicated cluster do not share locks, but of two
 * transactions that wrote the same row one is refused there and does its whole again.
 */
export async function takeLocks(connection: Connection, locks: readonly Lock[]): Promise<void> {
  const sorted = [...locks].sort((a, b) => ORDER.indexOf(a.table) - ORDER.indexOf(b.table));
  for (const { table, key } of sorted) {
    const where = Object.keys(key)
      .map((column) => `${column} = ?`)
      .join(' AND ');
    await connection.write(`UPDATE ${table} SET lock_no = lock_no + 1 WHERE ${where}`, Object.values(key));
  }
}
