import { randomBytes } from 'node:crypto';
import { verify } from '@node-rs/argon2';
import type { Right, Role } from '../../contract';
import { MSP, type Actor, type Scope } from '../access';
import type { App } from '../app';
import { networkOf } from '../client-address';
import { newId, transaction } from '../db';
import { Problem } from '../problem';
import { writeTrail } from '../trail';
import { write, type WriteHouse } from '../write';
import { hashOf, NOBODYS_PASSWORD, normalMail } from '../operators';
import { knownBrowser, makeBrowser } from './browser';
import { takeCode } from './factor';
import { countTry, forgetTry } from './tries';

export const SESSION_COOKIE = 'laager_session';
export const SESSION_MS = 12 * 3_600_000;

interface OperatorRow {
  readonly id: string;
  readonly name: string;
  readonly role: Role;
  readonly password_hash: string;
  readonly ends_at: number | null;
  readonly factor_sealed: Buffer | null;
}

interface Attempt {
  readonly mail: string;
  readonly password: string;
  /** Of the second factor, or a recovery code; empty: none was given. */
  readonly code?: string;
  /** The address that it comes from. */
  readonly from: string;
  /** What a browser says of having been here before. */
  readonly browser: string | undefined;
}

/** What the browser of whoever was signed in keeps: the token of this time, and that it is known from now on. */
export interface SignedIn {
  readonly token: string;
  readonly browser: string;
}

type SignInHouse = Pick<App, 'db' | 'databaseName' | 'clock' | 'sealing' | 'log'>;

/**
 * Signs an operator in.
 * @throws Problem 401 when mail or password is wrong, 429 when there were too many tries (see tries.ts)
 */
export async function signIn(house: SignInHouse, attempt: Attempt): Promise<SignedIn> {
  const { db, databaseName, clock, sealing, log } = house;
  const mail = normalMail(attempt.mail);
  const operator = await db.row<OperatorRow>(
    'SELECT id, name, role, password_hash, ends_at, factor_sealed FROM operator WHERE mail = ?',
    [mail],
  );
  const trying = {
    network: networkOf(attempt.from),
    // One that nobody has is counted like any other, or counting would tell which there are.
    account: operator?.id ?? hashOf(mail),
    browser: operator && knownBrowser(sealing, operator.id, attempt.browser),
  };
  await countTry(db, databaseName, trying);
  const right = await verify(operator?.password_hash ?? NOBODYS_PASSWORD, attempt.password).catch(
    () => false,
  );
  const wall = clock.wall();
  const hasEnded = (operator?.ends_at ?? Infinity) <= wall;
  if (!operator || !right || hasEnded) {
    // The mail itself stays out of the log: some type their password there.
    log.warn({ account: operator?.id ?? 'unknown', from: attempt.from }, 'a try to sign in was refused');
    throw new Problem(401, 'sign-in', 'Mail address or password is wrong.');
  }
  const withFactor = operator.factor_sealed !== null;
  if (withFactor) {
    const code = attempt.code ?? '';
    // Not forgotten yet: whoever knows the password must not guess codes without end.
    if (code === '')
      throw new Problem(401, 'second-factor', 'Enter the code that your app shows.', {
        fields: { code: 'six digits, or a recovery code' },
      });
    if (!(await takeCode(db, sealing, operator.id, code, wall))) {
      log.warn({ account: operator.id, from: attempt.from }, 'a code of a second factor was refused');
      throw new Problem(401, 'second-factor', 'The code is not right, or was taken before.', {
        fields: { code: 'is not right, or was taken before' },
      });
    }
  }
  await forgetTry(db, databaseName, trying);
  const token = randomBytes(32).toString('base64url');
  await transaction(db, async (connection) => {
    await connection.write('DELETE FROM web_session WHERE expires_at < ?', [wall]);
    await connection.write(
      'INSERT INTO web_session (token_hash, operator_id, created_at, expires_at, with_factor) VALUES (?, ?, ?, ?, ?)',
      [hashOf(token), operator.id, wall, wall + SESSION_MS, withFactor],
    );
    await writeTrail(connection, {
      customerId: MSP.id,
      at: clock.now(),
      actor: operator,
      action: 'sign in',
      subject: mail,
      after: { from: attempt.from },
    });
  });
  return { token, browser: makeBrowser(sealing, operator.id) };
}

/** Ends the session of a cookie; one that has ended already changes nothing. */
export async function signOut({ db, clock }: Pick<App, 'db' | 'clock'>, token: string): Promise<void> {
  await transaction(db, async (connection) => {
    const actor = await connection.row<Pick<Actor, 'id' | 'name' | 'role'>>(
      `SELECT o.id, o.name, o.role FROM web_session w JOIN operator o ON o.id = w.operator_id
       WHERE w.token_hash = ?`,
      [hashOf(token)],
    );
    const ended = await connection.write('DELETE FROM web_session WHERE token_hash = ?', [hashOf(token)]);
    if (!actor || ended === 0) return;
    await writeTrail(connection, {
      customerId: MSP.id,
      at: clock.now(),
      actor,
      action: 'sign out',
      subject: actor.name,
    });
  });
}

/**
 * A token for the API, shown this once: the database keeps only its hash. It reaches what its operator reaches, at any time.
 * @param token its rights: undefined or null: everything that its operator may
 * @throws Problem 403 when a token asks for it: what was stolen could not be ended for good
 */
export async function makeToken(
  house: WriteHouse,
  scope: Scope,
  token: { readonly name: string; readonly days: number; readonly rights?: readonly Right[] | null },
): Promise<{ id: string; token: string; name: string }> {
  if (scope.token !== undefined)
    throw new Problem(403, 'token', 'A token makes no tokens. Sign in to make one.');
  const secret = `laager_${randomBytes(24).toString('base64url')}`;
  const wall = house.clock.wall();
  return write(house, scope, [], async (tx) => {
    const id = newId();
    const rights = token.rights ? [...new Set(token.rights)].join(',') : null;
    await tx.write(
      'INSERT INTO api_token (id, operator_id, name, token_hash, created_at, expires_at, rights) VALUES (?, ?, ?, ?, ?, ?, ?)',
      [id, scope.actor.id, token.name, hashOf(secret), wall, wall + token.days * 86_400_000, rights],
    );
    await tx.record({
      action: 'make API token',
      subject: token.name,
      after: { days: token.days, rights: token.rights ?? 'every' },
      topic: 'ground',
      id,
    });
    return { id, token: secret, name: token.name };
  });
}
