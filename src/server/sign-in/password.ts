import { hash, verify } from '@node-rs/argon2';
import type { PasswordChange } from '../../contract';
import type { Scope } from '../access';
import type { App } from '../app';
import { networkOf } from '../client-address';
import { keepPassword } from '../operators';
import { Problem } from '../problem';
import { write } from '../write';
import { hashOf } from '../operators';
import { countTry, forgetTry } from './tries';

/**
 * Changes the password of who asks, and ends their sign-ins but this one, and their API tokens.
 * @param from the address that it comes from
 * @param cookie of the sign-in that asks
 * @throws Problem 403 for an API token, 422 beside the field, 429 when there were too many tries (see tries.ts)
 */
export async function changePassword(
  app: App,
  scope: Scope,
  { password, next }: PasswordChange,
  from: string,
  cookie: string | undefined,
): Promise<void> {
  if (scope.token !== undefined || cookie === undefined)
    throw new Problem(403, 'token', 'A token changes no password. Sign in to change it.');
  const { db, databaseName } = app;
  const operator = await db.row<{ password_hash: string }>(
    'SELECT password_hash FROM operator WHERE id = ?',
    [scope.actor.id],
  );
  // Who finds a browser signed in must not guess on here; and the account's signing in is not slowed down by it.
  const trying = {
    network: networkOf(from),
    account: scope.actor.id,
    browser: `password of ${scope.actor.id}`,
  };
  await countTry(db, databaseName, trying);
  const right = operator && (await verify(operator.password_hash, password).catch(() => false));
  if (!right) throw refusal({ password: 'is not your current password' });
  await forgetTry(db, databaseName, trying);
  if (next === password) throw refusal({ next: 'is the one you have' });
  const passwordHash = await hash(next);
  await write(app, scope, [], async (tx) => {
    await keepPassword(tx, scope.actor.id, passwordHash, hashOf(cookie));
    await tx.record({
      action: 'change password',
      subject: scope.actor.name,
      topic: 'ground',
      id: scope.actor.id,
    });
  });
}

const refusal = (fields: Readonly<Record<string, string>>): Problem =>
  new Problem(422, 'invalid', 'The password was not changed.', { fields });
