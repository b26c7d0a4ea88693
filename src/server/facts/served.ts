import type { CustomerScope } from '../access';
import type { Connection } from '../db';
import { retainedOf } from '../retained';
import { wasCarriedOut, wasEverMade } from '../runs';
import { wasAnybodyIn } from '../sessions';
import type { FactReader } from './reader';

/** Whether an environment was ever there for people: a run of it was carried out, or somebody was in. */
export const wasOpen = async (db: Connection, scope: CustomerScope, environment: string): Promise<boolean> =>
  (await wasCarriedOut(db, scope, environment)) || (await wasAnybodyIn(db, scope, environment));

/** Sessions of long ago are forgotten, and data are lost by this answer: wherever items were ever published, it is yes. */
export const served: FactReader<'served'> = async ({ connection, scope, subject: { environment } }) =>
  environment !== undefined &&
  ((await wasOpen(connection, scope, environment)) ||
    (await wasEverMade(connection, scope, environment, 'publication')));

export const retained: FactReader<'retained'> = async ({ connection, scope, subject: { environment } }) =>
  environment === undefined ? [] : retainedOf(connection, scope, environment);
