import mysql from 'mysql2/promise';
import pLimit from 'p-limit';
import { bind, type Database } from './query';

export interface DatabaseSettings {
  readonly host: string;
  readonly port: number;
  readonly user: string;
  readonly password: string;
  readonly database: string;
  readonly connections: number;
}

/** Connections that the rate limiter may take besides ours. */
const SPARE = 4;

/** No transaction of ours waits for anything but the database: one that is idle for so long is nobody's. */
const IDLE_SECONDS = 5;

/** A pool of connections. Nothing is connected until the first query; READ COMMITTED, so that claims lock only their rows. */
export function openDatabase({ connections, ...server }: DatabaseSettings): Database {
  const pool = mysql.createPool({
    ...server,
    connectionLimit: connections + SPARE,
    charset: 'utf8mb4',
    timezone: 'Z',
    jsonStrings: true,
    maxPreparedStatements: 400,
    connectTimeout: 5_000,
  });
  pool.pool.on('connection', (connection) => {
    // A connection that is lost at this very moment tells so to the statement that follows. A process that was stopped
    // in the middle of a transaction may hold up the others for so long and no longer.
    connection.query(
      `SET SESSION tx_isolation = 'READ-COMMITTED', sql_mode = 'STRICT_ALL_TABLES',
         idle_transaction_timeout = ${IDLE_SECONDS}, innodb_lock_wait_timeout = ${3 * IDLE_SECONDS}`,
      () => undefined,
    );
  });
  const gate = pLimit(connections);
  return { ...bind(pool, gate), pool, gate, close: () => pool.end() };
}
