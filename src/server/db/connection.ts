import { connect, type Socket } from 'node:net';
import mysql from 'mysql2/promise';
import pLimit from 'p-limit';
import { overPool, type Database } from './query';

/** A server of the database: the only one, or one of a replicated cluster. */
export interface Server {
  readonly host: string;
  readonly port: number;
}

export interface DatabaseSettings extends Server {
  /** Others that know the same; the next one is taken when one is gone. */
  readonly others?: readonly Server[];
  readonly user: string;
  readonly password: string;
  readonly database: string;
  readonly connections: number;
  /** So long an answer is waited for, in milliseconds; left out: as long as is usual. */
  readonly answerMs?: number;
}

/** Connections that the rate limiter may take besides ours. */
const SPARE = 4;

/** No transaction of ours waits for anything but the database: one that is idle for so long is nobody's. */
const IDLE_SECONDS = 5;

/** So long a list may be that a statement puts together as one value. */
const MOST_LIST_BYTES = 64_000_000;

/** Longer than a lock is waited for; a database that stands still keeps nobody longer. */
const ANSWER_MS = 5 * IDLE_SECONDS * 1_000;

/** A pool of connections. Nothing is connected until the first query; READ COMMITTED, so that claims lock only their rows. */
export function openDatabase({
  connections,
  others = [],
  host,
  port,
  answerMs = ANSWER_MS,
  ...account
}: DatabaseSettings): Database {
  const servers = [{ host, port }, ...others];
  const pool = mysql.createPool({
    ...account,
    stream: streamsTo(servers),
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
    // Lists that are put together as JSON are cut off at this length, and then are no JSON.
    connection.query(
      `SET SESSION tx_isolation = 'READ-COMMITTED', sql_mode = 'STRICT_ALL_TABLES', group_concat_max_len = ${MOST_LIST_BYTES},
         idle_transaction_timeout = ${IDLE_SECONDS}, innodb_lock_wait_timeout = ${3 * IDLE_SECONDS}`,
      () => undefined,
    );
  });
  const gate = pLimit(connections);
  const house = { gate, servers: servers.length, answerMs, pool };
  return { ...overPool(house), ...house, close: () => pool.end() };
}

/** Connects to a server, and from then on to the next one when that one could not be reached. */
function streamsTo(servers: readonly Server[]): () => Socket {
  let at = 0;
  return () => {
    const mine = at;
    const socket = connect({ ...(servers[mine] ?? { host: '', port: 0 }), noDelay: true });
    const isGone = (): void => {
      if (at === mine) at = (mine + 1) % servers.length;
    };
    socket.once('close', isGone);
    socket.once('connect', () => socket.removeListener('close', isGone));
    return socket;
  };
}
