import { createHash } from 'node:crypto';
import { existsSync } from 'node:fs';
import { readFile } from 'node:fs/promises';
import { join, resolve } from 'node:path';
import mysql from 'mysql2/promise';
import type { DatabaseSettings } from './connection';

/** The first server that can be reached. */
async function connectToFirst(
  { host, port, others = [] }: DatabaseSettings,
  options: mysql.ConnectionOptions,
): Promise<mysql.Connection> {
  let trouble: unknown;
  for (const server of [{ host, port }, ...others])
    try {
      return await mysql.createConnection({ ...server, ...options });
    } catch (error) {
      trouble = error;
    }
  throw trouble;
}

/** Takes the lock under which migrations run. @throws Error when another process holds it for longer than `seconds` */
async function lock(connection: mysql.Connection, database: string, seconds: number): Promise<void> {
  // A name has at most 64 letters.
  const name = createHash('sha256').update(`migrate ${database}`).digest('hex').slice(0, 40);
  const [rows] = await connection.query<mysql.RowDataPacket[]>('SELECT GET_LOCK(?, ?) AS got', [
    name,
    seconds,
  ]);
  if (Number(rows[0]?.got) !== 1)
    throw new Error(`Another process is migrating ${database}, and was not done within ${seconds} s.`);
}

const sumOf = async (path: string): Promise<string> =>
  createHash('sha256')
    .update(await readFile(path))
    .digest('hex');

/**
 * Keeps the checksum of each applied migration, and refuses one that was edited since: this database would never get the
 * edit. A migration that was applied before checksums were kept is taken as it is now.
 */
async function refuseEdited(connection: mysql.Connection, folder: string): Promise<void> {
  await connection.query('ALTER TABLE migration ADD COLUMN IF NOT EXISTS sum CHAR(64) NULL');
  const [rows] = await connection.query<mysql.RowDataPacket[]>('SELECT name, sum FROM migration');
  for (const row of rows) {
    const { name, sum } = row as mysql.RowDataPacket & { name: string; sum: string | null };
    const path = join(resolve(folder), name);
    // Applied by a newer version that ran here before.
    if (!existsSync(path)) continue;
    const now = await sumOf(path);
    if (sum === null) await connection.query('UPDATE migration SET sum = ? WHERE name = ?', [now, name]);
    else if (sum !== now)
      throw new Error(
        `Migration ${name} was edited after it was applied here. Restore it, and add a new one.`,
      );
  }
}

export interface MigrateOptions {
  readonly folder?: string;
  /** Is told which migrations will be done, before the first one is. */
  readonly onPlan?: (names: readonly string[]) => void;
  /** So long another process is waited for. */
  readonly lockSeconds?: number;
}

/**
 * Brings the database to the newest migration, making it if it is not there. Several processes may call this at once:
 * a named lock lets one go first.
 * @returns the names of the migrations that were done
 * @throws Error when one was edited after it was applied, or another process is at it for too long
 */
export async function migrate(
  settings: DatabaseSettings,
  { folder = 'src/server/db/migrations', onPlan, lockSeconds = 60 }: MigrateOptions = {},
): Promise<string[]> {
  const { database, user, password } = settings;
  const connection = await connectToFirst(settings, { user, password, multipleStatements: true });
  try {
    await connection.query(`CREATE DATABASE IF NOT EXISTS \`${database}\` CHARACTER SET utf8mb4`);
    await connection.query(`USE \`${database}\``);
    await lock(connection, database, lockSeconds);
    await connection.query(
      'CREATE TABLE IF NOT EXISTS migration (name VARCHAR(120) PRIMARY KEY) CHARACTER SET utf8mb4',
    );
    await refuseEdited(connection, folder);
    // Only who migrates needs it: the others start without.
    const { Umzug } = await import('umzug');
    const umzug = new Umzug({
      migrations: {
        glob: `${resolve(folder)}/*.sql`,
        resolve: ({ name, path }) => ({
          name,
          up: async () => {
            if (path === undefined) throw new Error(`${name} has no file`);
            await connection.query(await readFile(path, 'utf8'));
          },
        }),
      },
      storage: {
        executed: async () => {
          const [rows] = await connection.query<mysql.RowDataPacket[]>(
            'SELECT name FROM migration ORDER BY name',
          );
          return rows.map((row) => String(row.name));
        },
        logMigration: async ({ name }) => {
          const sum = await sumOf(join(resolve(folder), name));
          await connection.query('INSERT INTO migration (name, sum) VALUES (?, ?)', [name, sum]);
        },
        unlogMigration: async () => {
          throw new Error('migrations only go forward');
        },
      },
      logger: undefined,
    });
    const pending = (await umzug.pending()).map(({ name }) => name);
    if (pending.length > 0) onPlan?.(pending);
    return (await umzug.up()).map((done) => done.name);
  } finally {
    await connection.end();
  }
}
