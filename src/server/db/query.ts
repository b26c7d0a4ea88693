import { setTimeout as pause } from 'node:timers/promises';
import type { LimitFunction } from 'p-limit';
import type { Pool, PoolConnection, ResultSetHeader, RowDataPacket } from 'mysql2/promise';
import { databaseError, DatabaseError, SilentDatabase } from './error';
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
  /** So long an answer is waited for, in milliseconds. */
  readonly answerMs: number;
  close(): Promise<void>;
}

/** What a pool is used by: how many at a time, how many servers there are, and how long an answer is waited for. */
export type House = Pick<Database, 'gate' | 'servers' | 'answerMs'> & { readonly pool: Pool };

/** The statements of a pool, each in a connection of its own for as long as it takes. */
export function overPool(house: House): Connection {
  // A statement by itself is its whole transaction: it is done again when the database asks for that.
  const whole = <Result>(work: (connection: Connection) => Promise<Result>): Promise<Result> =>
    whileAskedTo(house.servers, () => inConnection(house, (one) => work(bind(one, house.answerMs))));
  const rows = <Row>(statement: Statement, values?: readonly Value[]): Promise<Row[]> =>
    // What is only read may be read twice.
    whole((connection) => undone(connection.rows<Row>(statement, values)));
  return {
    rows,
    row: async <Row>(statement: Statement, values?: readonly Value[]) =>
      (await rows<Row>(statement, values))[0],
    write: (statement, values) => whole((connection) => connection.write(statement, values)),
  };
}

/** The statements of one connection, inside a transaction or alone. */
function bind(target: PoolConnection, answerMs: number): Connection {
  const execute = <Found extends RowDataPacket[] | ResultSetHeader>(
    statement: Statement,
    values?: readonly Value[],
  ): Promise<Found> => {
    const { text, given } = partsOf(statement, values);
    return driver(answerMs, async () => (await target.execute<Found>(text, given))[0]);
  };
  const rows = async <Row>(statement: Statement, values?: readonly Value[]): Promise<Row[]> =>
    execute<(Row & RowDataPacket)[]>(statement, values);
  return {
    rows,
    row: async <Row>(statement: Statement, values?: readonly Value[]) =>
      (await rows<Row>(statement, values))[0],
    write: async (statement, values) => (await execute<ResultSetHeader>(statement, values)).affectedRows,
  };
}

/**
 * Lends a connection for some work, once one is free. One that gave no answer is given up: what it was asked for last may
 * still come, and is nobody's.
 */
function inConnection<Result>(
  { pool, gate, answerMs }: House,
  work: (connection: PoolConnection) => Promise<Result>,
): Promise<Result> {
  let state: 'waiting' | 'begun' | 'given up' = 'waiting';
  const lent = async (): Promise<Result> => {
    // Whoever was told that no answer came has nothing done for them any more.
    if (state === 'given up') throw new SilentDatabase(answerMs);
    state = 'begun';
    const connection = await connectionOf(pool, answerMs);
    try {
      const result = await work(connection);
      connection.release();
      return result;
    } catch (error) {
      if (error instanceof SilentDatabase) connection.destroy();
      else connection.release();
      throw error;
    }
  };
  return within(answerMs, gate(lent), () => {
    if (state === 'begun') return false;
    state = 'given up';
    return true;
  });
}

async function connectionOf(pool: Pool, answerMs: number): Promise<PoolConnection> {
  const asked = pool.getConnection();
  try {
    return await driver(answerMs, () => asked);
  } catch (error) {
    // It may come late.
    asked.then(
      (connection) => connection.release(),
      () => undefined,
    );
    throw error;
  }
}

/** @param isLate whether nothing was heard for so long; asked once, when the time is over. @throws SilentDatabase */
async function within<Result>(
  ms: number,
  asked: Promise<Result>,
  isLate: () => boolean = () => true,
): Promise<Result> {
  let timer: NodeJS.Timeout | undefined;
  const silence = new Promise<never>((_answer, reject) => {
    timer = setTimeout(() => {
      if (isLate()) reject(new SilentDatabase(ms));
    }, ms);
  });
  try {
    return await Promise.race([asked, silence]);
  } finally {
    clearTimeout(timer);
  }
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
    const isLost = error instanceof DatabaseError && error.isLost && !(error instanceof SilentDatabase);
    throw isLost ? new Undone(error) : error;
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
): Promise<Result> =>
  whileAskedTo(db.servers, () => inConnection(db, (connection) => once(connection, db.answerMs, work)));

async function once<Result>(
  connection: PoolConnection,
  answerMs: number,
  work: (connection: Connection) => Promise<Result>,
): Promise<Result> {
  try {
    // Until it is asked to keep it, the server keeps nothing.
    const result = await undone(
      driver(answerMs, () => connection.beginTransaction()).then(() => work(bind(connection, answerMs))),
    );
    await driver(answerMs, () => connection.commit());
    return result;
  } catch (error) {
    if (error instanceof SilentDatabase) throw error;
    await driver(answerMs, () => connection.rollback()).catch(() => connection.destroy());
    throw error;
  }
}

/** What the driver was asked for; its errors have a kind of their own. @throws DatabaseError */
async function driver<Result>(answerMs: number, ask: () => Promise<Result>): Promise<Result> {
  try {
    return await within(answerMs, ask());
  } catch (error) {
    throw databaseError(error);
  }
}

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
