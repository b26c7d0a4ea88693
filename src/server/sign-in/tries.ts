import { RateLimiterMySQL, RateLimiterRes } from 'rate-limiter-flexible';
import type { Database } from '../db';
import { Problem } from '../problem';

const TRIES = 8;
const TRIES_SECONDS = 300;

const limiters = new WeakMap<Database, Promise<RateLimiterMySQL>>();

/** Counts tries in the database, so that all web processes count together. */
function limiterOn(db: Database, database: string): Promise<RateLimiterMySQL> {
  const known = limiters.get(db);
  if (known) return known;
  const limiter = new Promise<RateLimiterMySQL>((resolve, reject) => {
    const made: RateLimiterMySQL = new RateLimiterMySQL(
      {
        storeClient: db.pool.pool,
        dbName: database,
        tableName: 'sign_in_tries',
        points: TRIES,
        duration: TRIES_SECONDS,
      },
      (error?: Error) => (error ? reject(error) : resolve(made)),
    );
  });
  limiters.set(db, limiter);
  limiter.catch(() => limiters.delete(db));
  return limiter;
}

/** Counts a try. @throws Problem 429 after 8 in five minutes under one key */
export async function countTry(db: Database, database: string, key: string): Promise<void> {
  const tries = await limiterOn(db, database);
  try {
    await tries.consume(key);
  } catch (error) {
    if (!(error instanceof RateLimiterRes)) throw error;
    const seconds = Math.ceil(error.msBeforeNext / 1_000);
    throw new Problem(429, 'too-many-tries', `Too many tries. Try again in ${seconds} seconds.`, {
      headers: { 'retry-after': String(seconds) },
    });
  }
}

export async function forgetTries(db: Database, database: string, keys: readonly string[]): Promise<void> {
  const tries = await limiterOn(db, database);
  await Promise.all(keys.map((key) => tries.delete(key)));
}
