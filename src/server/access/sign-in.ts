import { createHash, randomBytes } from 'node:crypto';
import { verify } from '@node-rs/argon2';
import { RateLimiterMySQL, RateLimiterRes } from 'rate-limiter-flexible';
import { newId, type Database } from '../db';
import { Problem } from '../problem';
import type { Role, Scope } from './scope';

export const SESSION_COOKIE = 'laager_session';
export const SESSION_MS = 12 * 3_600_000;
const TRIES = 8;
const TRIES_SECONDS = 300;

const hashOf = (token: string): string => createHash('sha256').update(token).digest('hex');

/** A hash of nothing anyone knows, so that an unknown mail address takes as long as a wrong password. */
const NOBODY =
  '$argon2id$v=19$m=19456,t=2,p=1$c29tZXNhbHRzb21lc2FsdA$3vcC4kRcnKH0F5qZl0BcVzVLb0zBfr7G7eXQ2xFQ7Uk';

let limiter: Promise<RateLimiterMySQL> | undefined;

/** Counts tries in the database, so that all web processes count together. */
function limiterOn(db: Database, database: string): Promise<RateLimiterMySQL> {
  limiter ??= new Promise((resolve, reject) => {
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
  limiter.catch(() => (limiter = undefined));
  return limiter;
}

async function count(db: Database, database: string, key: string): Promise<void> {
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

/**
 * Signs an operator in. @returns the token for the session cookie
 * @throws Problem 401 when mail or password is wrong, 429 after 8 tries in five minutes from one address or for one mail
 */
export async function signIn(
  db: Database,
  database: string,
  attempt: { mail: string; password: string; from: string },
  wall: number,
): Promise<string> {
  const mail = attempt.mail.trim().toLowerCase();
  await count(db, database, `from ${attempt.from}`.slice(0, 200));
  await count(db, database, `mail ${hashOf(mail)}`);
  const operator = await db.row<{ id: string; password_hash: string }>(
    'SELECT id, password_hash FROM operator WHERE mail = ?',
    [mail],
  );
  const right = await verify(operator?.password_hash ?? NOBODY, attempt.password).catch(() => false);
  if (!operator || !right) throw new Problem(401, 'sign-in', 'Mail address or password is wrong.');
  const tries = await limiterOn(db, database);
  await Promise.all([
    tries.delete(`from ${attempt.from}`.slice(0, 200)),
    tries.delete(`mail ${hashOf(mail)}`),
  ]);
  const token = randomBytes(32).toString('base64url');
  await db.write('DELETE FROM web_session WHERE expires_at < ?', [wall]);
  await db.write(
    'INSERT INTO web_session (token_hash, operator_id, created_at, expires_at) VALUES (?, ?, ?, ?)',
    [hashOf(token), operator.id, wall, wall + SESSION_MS],
  );
  return token;
}

export async function signOut(db: Database, token: string): Promise<void> {
  await db.write('DELETE FROM web_session WHERE token_hash = ?', [hashOf(token)]);
}

const OPERATOR = `SELECT o.id, o.name, o.role, o.reach,
  (SELECT GROUP_CONCAT(c.customer_id) FROM operator_customer c WHERE c.operator_id = o.id) AS customers
  FROM operator o`;

interface OperatorRow {
  readonly id: string;
  readonly name: string;
  readonly role: Role;
  readonly reach: 'every' | 'listed';
  readonly customers: string | null;
}

/** Whose session a cookie is; undefined when it is nobody's or has ended. */
export async function scopeOfSession(db: Database, token: string, wall: number): Promise<Scope | undefined> {
  const row = await db.row<OperatorRow>(
    `${OPERATOR} JOIN web_session s ON s.operator_id = o.id WHERE s.token_hash = ? AND s.expires_at > ?`,
    [hashOf(token), wall],
  );
  return row && scopeOf(row);
}

/** Whose API token it is; undefined when it is nobody's or has ended. */
export async function scopeOfToken(db: Database, token: string, wall: number): Promise<Scope | undefined> {
  const row = await db.row<OperatorRow>(
    `${OPERATOR} JOIN api_token t ON t.operator_id = o.id WHERE t.token_hash = ? AND t.expires_at > ?`,
    [hashOf(token), wall],
  );
  return row && scopeOf(row);
}

const scopeOf = (row: OperatorRow): Scope => ({
  actor: { id: row.id, name: row.name, role: row.role },
  customers:
    row.reach === 'every' ? undefined : new Set((row.customers ?? '').split(',').filter((id) => id !== '')),
});

/** A token for the API, shown this once: the database keeps only its hash. It reaches what its operator reaches. */
export async function makeToken(
  db: Database,
  operatorId: string,
  name: string,
  days: number,
  wall: number,
): Promise<string> {
  const token = `laager_${randomBytes(24).toString('base64url')}`;
  await db.write(
    'INSERT INTO api_token (id, operator_id, name, token_hash, created_at, expires_at) VALUES (?, ?, ?, ?, ?, ?)',
    [newId(), operatorId, name, hashOf(token), wall, wall + days * 86_400_000],
  );
  return token;
}
