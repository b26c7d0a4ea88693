import { createHash } from 'node:crypto';
import { RateLimiterMySQL, RateLimiterRes } from 'rate-limiter-flexible';
import type { Database } from '../db';
import { Problem } from '../problem';

/*
 * Tries to sign in are counted in the database, so that all web processes count together. Nobody can lock somebody else
 * out: an account that is being tried is slowed down for browsers that it does not know, and for those only.
 */

/** What is counted, for how long, and how much of it is let through. Seconds of the wall. */
const LIMITS = {
  /** Tries from one network's end, whoever they are for. */
  network: { points: 30, duration: 300 },
  /** Wrong tries for one account until it is slowed down. */
  account: { points: 5, duration: 3_600 },
  /** One try for a slowed account in so long: 100 an hour at most (OWASP ASVS 4.0, 2.2.1). */
  slowed: { points: 1, duration: 36 },
  /** Wrong tries from a browser in which the account was signed in before. */
  browser: { points: 8, duration: 300 },
} as const;

type Counted = keyof typeof LIMITS;
type Limiters = Readonly<Record<Counted, RateLimiterMySQL>>;

const limiters = new WeakMap<Database, Limiters>();

function limitersOn(db: Database, database: string): Limiters {
  const known = limiters.get(db);
  if (known) return known;
  const on = (counted: Counted): RateLimiterMySQL =>
    new RateLimiterMySQL({
      storeClient: db.pool.pool,
      dbName: database,
      tableName: 'sign_in_tries',
      // A migration makes it.
      tableCreated: true,
      ...LIMITS[counted],
      keyPrefix: counted,
    });
  const made = {
    network: on('network'),
    account: on('account'),
    slowed: on('slowed'),
    browser: on('browser'),
  };
  limiters.set(db, made);
  return made;
}

/** Who tries: from which network, for which account, and from a browser that the account knows or from another. */
export interface Trying {
  readonly network: string;
  readonly account: string;
  readonly browser: string | undefined;
}

/** Counts a try before it is looked at. @throws Problem 429 with when to try again */
export async function countTry(db: Database, database: string, trying: Trying): Promise<void> {
  const tries = limitersOn(db, database);
  await count(tries.network, trying.network);
  if (trying.browser !== undefined) return count(tries.browser, trying.browser);
  const isSlowed = await count(tries.account, trying.account).then(
    () => false,
    (error: unknown) => {
      if (error instanceof Problem) return true;
      throw error;
    },
  );
  if (isSlowed) await count(tries.slowed, trying.account);
}

/** The limiter's own table compares keys without accents: two that look alike would be counted together. */
const keyOf = (text: string): string => createHash('sha256').update(text).digest('hex');

async function count(limiter: RateLimiterMySQL, key: string): Promise<void> {
  try {
    await limiter.consume(keyOf(key));
  } catch (error) {
    if (!(error instanceof RateLimiterRes)) throw error;
    const seconds = Math.max(1, Math.ceil(error.msBeforeNext / 1_000));
    throw new Problem(429, 'too-many-tries', `Too many tries. Try again in ${seconds} seconds.`, {
      headers: { 'retry-after': String(seconds) },
    });
  }
}

/** Counts only from where somebody asks: for what nobody can guess, or what keeps nobody out. @throws Problem 429 */
export async function countFrom(db: Database, database: string, network: string): Promise<void> {
  await count(limitersOn(db, database).network, network);
}

/** A try was right: it does not count, and the account is slowed down no more. What others tried from there still counts. */
export async function forgetTry(db: Database, database: string, trying: Trying): Promise<void> {
  const tries = limitersOn(db, database);
  await Promise.all([
    tries.network.reward(keyOf(trying.network)),
    trying.browser === undefined
      ? tries.account.delete(keyOf(trying.account))
      : tries.browser.delete(keyOf(trying.browser)),
  ]);
}
