import { setTimeout as pause } from 'node:timers/promises';
import type { LimitFunction } from 'p-limit';
import type { Pool, PoolConnection, ResultSetHeader, RowDataPacket } from 'mysql2/promise';
import { databaseError, DatabaseError } from './error';
import type { Sql } from './sql';

export type Value = string | number | boolean | null | Buffer;

/** SQL with its values beside it, or within it. */
type Statement = string | Sql;

/** Where a store's statements go: the pool, or one connection inside a transaction. All are prepared. */
export interface Connection {
  rows<Row>(statement: Statement, values?: readonly Value[]): Promise<Row[]>;
  row<Row>(statement: Statement, values?: readonly Value[]): Promise<Row | undefined>;
  /** Returns how many rows were changed or matched, as MariaDB counts them. */
  write(statement: Statement, values?: readonly Value[]): Promise<number>;
}

export interface Database extends Connection {
  readonly pool: Pool;
  /**
   * Lets so many through at a time as there are connections. The pool's own queue is never used: whoever waits in it
   * when the database dies is never called again.
   */
  readonly gate: LimitFunction;
  /** How many servers it may be reached at. */
  readonly servers: number;
  close(): Promise<void>;
}

/** @param house for a pool; a connection inside a transaction is through its gate already */
export function bind(
  target: Pool | PoolConnection,
  house: Pick<Database, 'gate' | 'servers'> | undefined,
): Connection {
  const through = async <Result>(work: () => Promise<Result>): Promise<Result> => {
    try {
      return await (house ? house.gate(work) : work());
    } catch (error) {
      throw databaseError(error);
    }
  };
  // A statement by itself is its whole transaction; one inside another is done again with that.
  const whole = <Result>(work: () => Promise<Result>): Promise<Result> =>
    house ? whileAskedTo(house.servers, work) : work();
  const rows = async <Row>(statement: Statement, values?: readonly Value[]): Promise<Row[]> => {
    const { text, given } = partsOf(statement, values);
    // What is only read may be read twice.
    const [found] = await whole(() =>
      undone(through(() => target.execute<(Row & RowDataPacket)[]>(text, given))),
    );
    return found;
  };
  return {
    rows,
    row: async <Row>(statement: Statement, values?: readonly Value[]) =>
      (await rows<Row>(statement, values))[0],
    write: async (statement, values) => {
      const { text, given } = partsOf(statement, values);
      const [result] = await whole(() => through(() => target.execute<ResultSetHeader>(text, given)));
      return result.affectedRows;
    },
  };
}

const partsOf = (statement: Statement, values: readonly Value[] = []): { text: string; given: Value[] } =>
  typeof statement === 'string'
    ? { text: statement, given: [...values] }
    : { text: statement.sql, given: statement.values as Value[] };

const MOST_TRIES = 8;
/** A server that ends every connection is not asked for ever. */
const MOST_LOSSES = 2;

/** Nothing of it can have been kept, though the connection was lost: it may be done again whole. */
class Undone extends Error {
  constructor(override readonly cause: DatabaseError) {
    super(cause.message);
  }
}

/** Marks a loss of the connection as one after which nothing was kept. */
const undone = <Result>(work: Promise<Result>): Promise<Result> =>
  work.catch((error: unknown) => {
    throw error instanceof DatabaseError && error.isLost ? new Undone(error) : error;
  });

/**
 * Does something whole again for as long as the database asks for that: a deadlock, or another server of its cluster; at
 * the next server when one could not be reached; and when a connection was lost before anything was kept.
 */
async function whileAskedTo<Result>(servers: number, work: () => Promise<Result>): Promise<Result> {
  for (let attempt = 1; ; attempt++) {
    try {
      return await work();
    } catch (error) {
      if (error instanceof Undone) {
        if (attempt > MOST_LOSSES) throw error.cause;
        continue;
      }
      if (!(error instanceof DatabaseError)) throw error;
      const isElsewhere = error.wasNeverSent && attempt < servers;
      if (!isElsewhere && (attempt >= MOST_TRIES || !error.isToBeTriedAgain)) throw error;
      await pause(Math.random() * 20 * 2 ** attempt);
    }
  }
}

/** Does `work` in one transaction; where the database asks to try again, the whole of it is done again. */
export const transaction = <Result>(
  db: Database,
  work: (connection: Connection) => Promise<Result>,
): Promise<Result> => whileAskedTo(db.servers, () => db.gate(() => once(db.pool, work)));

async function once<Result>(pool: Pool, work: (connection: Connection) => Promise<Result>): Promise<Result> {
  const connection = await driver(pool.getConnection());
  try {
    // Until it is asked to keep it, the server keeps nothing.
    const result = await undone(
      driver(connection.beginTransaction()).then(() => work(bind(connection, undefined))),
    );
    await driver(connection.commit());
    connection.release();
    return result;
  } catch (error) {
    await connection.rollback().then(
      () => connection.release(),
      () => connection.destroy(),
    );
    throw error;
  }
}

/** What the driver was asked for; its errors have a kind of their own. */
const driver = <Result>(asked: Promise<Result>): Promise<Result> =>
  asked.catch((error: unknown) => {
    throw databaseError(error);
  });

/** Rows a statement; one prepared statement serves all whole chunks. */
const CHUNK = 200;

/** Inserts rows in chunks. `table` and `columns` are written by us, never read from outside. */
export async function insertMany(
  connection: Connection,
  table: string,
  columns: readonly string[],
  rows: readonly (readonly Value[])[],
  onDuplicate = '',
): Promise<void> {
  const one = `(${columns.map(() => '?').join(',')})`;
  for (let at = 0; at < rows.length; at += CHUNK) {
    const chunk = rows.slice(at, at + CHUNK);
    const places = chunk.map(() => one).join(',');
    await connection.write(
      `INSERT INTO ${table} (${columns.join(',')}) VALUES ${places} ${onDuplicate}`,
      chunk.flat(),
    );
  }
}
