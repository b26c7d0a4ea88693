export { openDatabase, type DatabaseSettings, type Server } from './connection';
export { transaction, insertMany, type Connection, type Database, type Value } from './query';
export { takeLocks, type Lock } from './lock';
export { migrate } from './migrate';
export { newId } from './id';
export { all, atMost, findBytes, holds, empty, join, raw, sql, type Sql } from './sql';
export { DatabaseError, withoutValues } from './error';
