export { openDatabase, settingsFromEnvironment, type DatabaseSettings } from './connection';
export { transaction, insertMany, type Connection, type Database, type Value } from './query';
export { takeTurn } from './turn';
export { migrate } from './migrate';
export { newId } from './id';
