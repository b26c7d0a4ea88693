import { randomBytes } from 'node:crypto';
import { verify } from '@node-rs/argon2';
import type { Role } from '../../contract';
import { MSP, type Actor, type Scope } from '../access';
import type { Clock } from '../clock';
import { newId, transaction, type Database } from '../db';
import { Problem } from '../problem';
import { writeTrail } from '../trail';
import { write, type WriteHouse } from '../write';
import { hashOf } from './hash';
import { countTry, forgetTries } from './tries';

export const SESSION_COOKIE = 'laager_session';
export const SESSION_MS = 12 * 3_600_000;

/** A hash of nothing anyone knows, so that an unknown mail address takes as long as a wrong password. */
const NOBODY =
  '$argon2id$v=19$m=19456,t=2,p=1$c29tZXNhbHRzb21lc2FsdA$3vcC4kRcnKH0F5qZl0BcVzVLb0zBfr7G7eXQ2xFQ7Uk';

interface OperatorRow {
  readonly id: string;
  readonly name: string;
  readonly role: Role;
  readonly password_hash: string;
}

/**
 * Signs an operator in. @returns the token for the session cookie
 * @throws Problem 401 when mail or password is wrong, 429 after 8 tries in five minutes from one address or for one mail
 */
export async function signIn(
  db: Database,
  database: string,
  attempt: { readonly mail: string; readonly password: string; readonly from: string },
  clock: Clock,
): Promise<string> {
  const mail = attempt.mail.trim().toLowerCase();
  const counted = [`from ${attempt.from}`.slice(0, 200), `mail ${hashOf(mail)}`];
  for (const key of counted) await countTry(db, database, key);
  const operator = await db.row<OperatorRow>(
    'SELECT id, name, role, password_hash FROM operator WHERE mail = ?',
    [mail],
  );
  const right = await verify(operator?.password_hash ?? NOBODY, attempt.password).catch(() => false);
  if (!operator || !right) throw new Problem(401, 'sign-in', 'Mail address or password is wrong.');
  await forgetTries(db, database, counted);
  const token = randomBytes(32).toString('base64url');
  const wall = clock.wall();
  await transaction(db, async (connection) => {
    await connection.write('DELETE FROM web_session WHERE expires_at < ?', [wall]);
    await connection.write(
      'INSERT INTO web_session (token_hash, operator_id, created_at, expires_at) VALUES (?, ?, ?, ?)',
      [hashOf(token), operator.id, wall, wall + SESSION_MS],
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
  return token;
}

/** Ends the session of a cookie; one that has ended already changes nothing. */
export async function signOut(db: Database, token: string, actor: Actor, clock: Clock): Promise<void> {
  await transaction(db, async (connection) => {
    const ended = await connection.write('DELETE FROM web_session WHERE token_hash = ?', [hashOf(token)]);
    if (ended > 0)
      await writeTrail(connection, {
        customerId: MSP.id,
        at: clock.now(),
        actor,
        action: 'sign out',
        subject: actor.name,
      });
  });
}

/** A token for the API, shown this once: the database keeps only its hash. It reaches what its operator reaches. */
export async function makeToken(
  house: WriteHouse,
  scope: Scope,
  token: { readonly name: string; readonly days: number },
): Promise<{ token: string; name: string }> {
  const secret = `laager_${randomBytes(24).toString('base64url')}`;
  const wall = house.clock.wall();
  return write(house, scope, [], async (tx) => {
    const id = newId();
    await tx.write(
      'INSERT INTO api_token (id, operator_id, name, token_hash, created_at, expires_at) VALUES (?, ?, ?, ?, ?, ?)',
      [id, scope.actor.id, token.name, hashOf(secret), wall, wall + token.days * 86_400_000],
    );
    await tx.record({
      action: 'make API token',
      subject: token.name,
      after: { days: token.days },
      topic: 'ground',
      id,
    });
    return { token: secret, name: token.name };
  });
}
