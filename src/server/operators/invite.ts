import { randomBytes } from 'node:crypto';
import { hash } from '@node-rs/argon2';
import type { NewOperator } from '../../contract';
import { MSP, type Scope } from '../access';
import { newId, transaction } from '../db';
import { conflict, notFound } from '../problem';
import { writeTrail } from '../trail';
import { write, type WriteHouse } from '../write';
import { hashOf } from './hash';
import { normalMail } from './mail';
import { keepPassword } from './password';
import { keepReach, reachFor } from './reach';

const INVITE_DAYS = 7;

/** Who is invited has a password that nobody knows until they choose one. */
const nobodysPassword = (): string => randomBytes(32).toString('base64url');

/**
 * Takes on an operator. Without a password they are invited: what is answered then lets them choose one, once.
 * @throws Problem 409 when someone has that mail, 422 for a customer that is unknown or out of reach
 */
export async function createOperator(
  house: WriteHouse,
  scope: Scope,
  operator: NewOperator,
): Promise<{ id: string; invite: string | null }> {
  const passwordHash = await hash(operator.password ?? nobodysPassword());
  const mail = normalMail(operator.mail);
  const invite = operator.password === null ? randomBytes(24).toString('base64url') : null;
  return write(house, scope, [], async (tx) => {
    if (await tx.row('SELECT id FROM operator WHERE mail = ?', [mail]))
      throw conflict('mail', `${mail} is an operator already.`);
    const reach = await reachFor(tx, scope, operator.customers);
    const id = newId();
    await tx.write(
      'INSERT INTO operator (id, name, mail, role, reach, password_hash) VALUES (?, ?, ?, ?, ?, ?)',
      [id, operator.name, mail, operator.role, reach ? 'listed' : 'every', passwordHash],
    );
    await keepReach(tx, id, reach);
    if (invite !== null)
      await tx.write('INSERT INTO invite (token_hash, operator_id, expires_at) VALUES (?, ?, ?)', [
        hashOf(invite),
        id,
        house.clock.wall() + INVITE_DAYS * 86_400_000,
      ]);
    await tx.record({
      action: invite === null ? 'take on operator' : 'invite operator',
      subject: operator.name,
      after: { mail, role: operator.role, customers: operator.customers ?? 'every' },
      topic: 'ground',
      id,
    });
    return { id, invite };
  });
}

/** Whose invitation it is, as long as it holds. @throws Problem 404 */
export async function inviteOf(
  db: WriteHouse['db'],
  token: string,
  wall: number,
): Promise<{ id: string; name: string; mail: string; role: NewOperator['role'] }> {
  const row = await db.row<{ id: string; name: string; mail: string; role: NewOperator['role'] }>(
    `SELECT o.id, o.name, o.mail, o.role FROM invite i JOIN operator o ON o.id = i.operator_id
     WHERE i.token_hash = ? AND i.expires_at > ?`,
    [hashOf(token), wall],
  );
  if (!row) throw notFound('invitation');
  return row;
}

/** Takes up an invitation: once. @throws Problem 404 when it was taken up, has ended or never was */
export async function acceptInvite(
  house: WriteHouse,
  token: string,
  password: string,
): Promise<{ mail: string }> {
  const { id, mail, name, role } = await inviteOf(house.db, token, house.clock.wall());
  const passwordHash = await hash(password);
  await transaction(house.db, async (connection) => {
    // Of two at once, one finds it gone.
    if ((await connection.write('DELETE FROM invite WHERE token_hash = ?', [hashOf(token)])) === 0)
      throw notFound('invitation');
    await keepPassword(connection, id, passwordHash);
    await writeTrail(connection, {
      customerId: MSP.id,
      at: house.clock.now(),
      actor: { id, name, role },
      action: 'take up invitation',
      subject: name,
    });
  });
  return { mail };
}
