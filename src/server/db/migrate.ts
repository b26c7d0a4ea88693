import { readFile } from 'node:fs/promises';
import { resolve } from 'node:path';
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

/**
 * Brings the database to the newest migration, making it if it is not there. Several processes may call this at once:
 * a named lock lets one go first. @returns the names of the migrations that were done
 */
export async function migrate(
  settings: DatabaseSettings,
  folder = 'src/server/db/migrations',
): Promise<string[]> {
  const { database, user, password } = settings;
  const connection = await connectToFirst(settings, { user, password, multipleStatements: true });
  try {
    await connection.query(`CREATE DATABASE IF NOT EXISTS \`${database}\` CHARACTER SET utf8mb4`);
    await connection.query(`USE \`${database}\``);
    await connection.query('SELECT GET_LOCK(?, 60)', [`migrate ${database}`]);
    await connection.query(
      'CREATE TABLE IF NOT EXISTS migration (name VARCHAR(120) PRIMARY KEY) CHARACTER SET utf8mb4',
    );
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
          await connection.query('INSERT INTO migration (name) VALUES (?)', [name]);
        },
        unlogMigration: async () => {
          throw new Error('migrations only go forward');
        },
      },
      logger: undefined,
    });
    return (await umzug.up()).map((done) => done.name);
  } finally {
    await connection.end();
  }
}
