import type { Connection } from '../db';

/* What holds for the whole of Laager, by name: each is read and written by the room that knows what it means. */

/** The value of a setting; undefined: it was never set. */
export async function setting(db: Connection, name: string): Promise<string | undefined> {
  const row = await db.row<{ value: string }>('SELECT value FROM setting WHERE name = ?', [name]);
  return row?.value;
}

export const keepSetting = (tx: Connection, name: string, value: string): Promise<number> =>
  tx.write('INSERT INTO setting (name, value) VALUES (?, ?) ON DUPLICATE KEY UPDATE value = VALUES(value)', [
    name,
    value,
  ]);

export const dropSetting = (tx: Connection, name: string): Promise<number> =>
  tx.write('DELETE FROM setting WHERE name = ?', [name]);

/** Those who write this first come one after the other, until each has ended its transaction. */
export const lockSetting = (tx: Connection, name: string): Promise<number> =>
  tx.write("INSERT INTO setting (name, value) VALUES (?, '1') ON DUPLICATE KEY UPDATE value = value + 1", [
    name,
  ]);
