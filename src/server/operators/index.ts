import type { NewOperator, Operator } from '../../contract';
import { hash } from '@node-rs/argon2';
import type { Scope } from '../access';
import { newId, type Connection, type Database } from '../db';
import { conflict, notFound, Problem } from '../problem';
import { write, type WriteHouse } from '../write';
import { normalMail } from './mail';

export { normalMail };

export async function listOperators(db: Connection): Promise<Operator[]> {
  const rows = await db.rows<Omit<Operator, 'customers'> & { reach: string; codes: string | null }>(
    `SELECT o.id, o.name, o.mail, o.role, o.reach,
       (SELECT GROUP_CONCAT(c.code ORDER BY c.code) FROM operator_customer x JOIN customer c ON c.id = x.customer_id
         WHERE x.operator_id = o.id) AS codes
     FROM operator o ORDER BY o.name`,
  );
  return rows.map(({ reach, codes, ...row }) => ({
    ...row,
    customers: reach === 'every' ? null : (codes ?? '').split(',').filter((code) => code !== ''),
  }));
}

/** Takes on an operator. @returns its id @throws Problem 409 when someone has that mail, 422 for an unknown customer */
export async function createOperator(
  house: WriteHouse,
  scope: Scope,
  operator: NewOperator,
): Promise<{ id: string }> {
  const passwordHash = await hash(operator.password);
  const mail = normalMail(operator.mail);
  return write(house, scope, [], async (tx) => {
    if (await tx.row('SELECT id FROM operator WHERE mail = ?', [mail]))
      throw conflict('mail', `${mail} is an operator already.`);
    const id = newId();
    await tx.write(
      'INSERT INTO operator (id, name, mail, role, reach, password_hash) VALUES (?, ?, ?, ?, ?, ?)',
      [id, operator.name, mail, operator.role, operator.customers ? 'listed' : 'every', passwordHash],
    );
    for (const code of operator.customers ?? []) {
      const added = await tx.write(
        "INSERT INTO operator_customer (operator_id, customer_id) SELECT ?, id FROM customer WHERE code = ? AND kind = 'customer'",
        [id, code],
      );
      if (added === 0)
        throw new Problem(422, 'customers', `There is no customer ${code}.`, {
          fields: { customers: `${code} is not known` },
        });
    }
    await tx.record({
      action: 'take on operator',
      subject: operator.name,
      after: { mail, role: operator.role, customers: operator.customers ?? 'every' },
      topic: 'ground',
      id,
    });
    return { id };
  });
}

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

/** Keeps a password's hash, and ends the operator's sign-ins but the one that is kept. */
export async function keepPassword(
  tx: Connection,
  operator: string,
  passwordHash: string,
  keptSignIn = '',
): Promise<void> {
  await tx.write('UPDATE operator SET password_hash = ? WHERE id = ?', [passwordHash, operator]);
  await tx.write('DELETE FROM web_session WHERE operator_id = ? AND token_hash <> ?', [operator, keptSignIn]);
}
