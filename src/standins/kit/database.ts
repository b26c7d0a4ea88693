import mysql, { type Pool, type ResultSetHeader, type RowDataPacket } from 'mysql2/promise';

/** A stand-in's own small database: it outlives the process, and nothing but the stand-in reads it. */
export interface Store {
  rows<Row>(sql: string, values?: readonly Value[]): Promise<Row[]>;
  row<Row>(sql: string, values?: readonly Value[]): Promise<Row | undefined>;
  write(sql: string, values?: readonly Value[]): Promise<ResultSetHeader>;
  close(): Promise<void>;
}

export type Value = string | number | boolean | null;

export interface DatabaseAddress {
  readonly host: string;
  readonly port: number;
  readonly user: string;
  readonly password: string;
  readonly database: string;
}

/** Opens the database, making it and its tables when they are not there. */
export async function openStore(address: DatabaseAddress, tables: readonly string[]): Promise<Store> {
  const { database, ...server } = address;
  const maker = await mysql.createConnection(server);
  await maker.query(`CREATE DATABASE IF NOT EXISTS \`${database}\` CHARACTER SET utf8mb4`);
  await maker.end();
  const pool = mysql.createPool({ ...address, connectionLimit: 4, jsonStrings: true });
  for (const table of tables) await pool.query(table);
  return storeOver(pool);
}

function storeOver(pool: Pool): Store {
  const rows = async <Row>(sql: string, values: readonly Value[] = []): Promise<Row[]> => {
    const [found] = await pool.execute<(Row & RowDataPacket)[]>(sql, [...values]);
    return found;
  };
  return {
    rows,
    row: async <Row>(sql: string, values: readonly Value[] = []) => (await rows<Row>(sql, values))[0],
    write: async (sql, values = []) => {
      const [result] = await pool.execute<ResultSetHeader>(sql, [...values]);
      return result;
    },
    close: () => pool.end(),
  };
}

/** The address that the environment names; `database` is the stand-in's own. */
export function addressFromEnvironment(database: string): DatabaseAddress {
  const env = process.env;
  return {
    host: env.LAAGER_DB_HOST ?? '127.0.0.1',
    port: Number(env.LAAGER_DB_PORT ?? 3306),
    user: env.LAAGER_DB_USER ?? 'root',
    password: env.LAAGER_DB_PASSWORD ?? '',
    database,
  };
}
