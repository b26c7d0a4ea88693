import { hash } from '@node-rs/argon2';
import type { Scope } from '../access';
import type { Connection, Database } from '../db';
import { notFound } from '../problem';
import { write, type WriteHouse } from '../write';
import { normalMail } from './mail';

/** A hash of nothing anyone knows, so that an unknown mail address takes as long as a wrong password. */
export const NOBODYS_PASSWORD =
  '$argon2id$v=19$m=19456,t=2,p=1$c29tZXNhbHRzb21lc2FsdA$3vcC4kRcnKH0F5qZl0BcVzVLb0zBfr7G7eXQ2xFQ7Uk';

/** Gives an operator another password and ends all their sign-ins. @throws Problem 404 */
export async function resetPassword(
  house: WriteHouse & { readonly db: Database },
  scope: Scope,
  mail: string,
  password: string,
): Promise<void> {
  const passwordHash = await hash(password);
  await write(house, scope, [], async (tx) => {
    const operator = await tx.row<{ id: string; name: string }>(
      'SELECT id, name FROM operator WHERE mail = ?',
      [normalMail(mail)],
    );
    if (!operator) throw notFound('operator');
    await keepPassword(tx, operator.id, passwordHash);
    await tx.record({ action: 'reset password', subject: operator.name, topic: 'ground', id: operator.id });
  });
}

/** Keeps a password's hash, and ends the operator's sign-ins but the one that is kept, and their API tokens. */
export async function keepPassword(
  tx: Connection,
  operator: string,
  passwordHash: string,
  keptSignIn = '',
): Promise<void> {
  await tx.write('UPDATE operator SET password_hash = ? WHERE id = ?', [passwordHash, operator]);
  await tx.write('DELETE FROM web_session WHERE operator_id = ? AND token_hash <> ?', [operator, keptSignIn]);
  await tx.write('DELETE FROM api_token WHERE operator_id = ?', [operator]);
}
