import { randomBytes } from 'node:crypto';
import { hash } from '@node-rs/argon2';
import type { NewOperator } from '../../contract';
import { APPROVAL_DAYS } from '../../core/approval';
import { MSP, type Scope } from '../access';
import type { App } from '../app';
import { newId, sql, transaction, type Connection } from '../db';
import { conflict, notFound, Problem } from '../problem';
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
 * Takes on an operator. Without a password they are invited: a link is mailed to them that lets them choose one, once.
 * Nobody else gets to see it.
 * @throws Problem 503 where it is not said at which address people reach us, 409 when someone has that mail, 422 for a customer that is unknown or out of reach
 */
export async function createOperator(
  house: WriteHouse & Pick<App, 'address'>,
  scope: Scope,
  { password = null, ...operator }: NewOperator & { readonly password?: string | null },
): Promise<{ id: string }> {
  if (password === null && house.address === undefined)
    throw new Problem(
      503,
      'address',
      'No invitation can be mailed: set LAAGER_ADDRESS to where people reach us.',
    );
  const passwordHash = await hash(password ?? nobodysPassword());
  const mail = normalMail(operator.mail);
  const invite = password === null ? randomBytes(24).toString('base64url') : null;
  return write(house, scope, [], async (tx) => {
    if (await tx.row('SELECT id FROM operator WHERE mail = ?', [mail]))
      throw conflict('mail', `${mail} is an operator already.`);
    const reach = await reachFor(tx, scope, operator.customers);
    const id = newId();
    await tx.write(
      `INSERT INTO operator (id, name, mail, role, reach, password_hash, invited_by, invited_wall)
       VALUES (?, ?, ?, ?, ?, ?, ?, ?)`,
      [
        id,
        operator.name,
        mail,
        operator.role,
        reach ? 'listed' : 'every',
        passwordHash,
        invite === null ? null : scope.actor.id,
        invite === null ? null : house.clock.wall(),
      ],
    );
    await keepReach(tx, id, reach);
    if (invite !== null)
      await tx.write('INSERT INTO invite (token_hash, operator_id, expires_at, sealed) VALUES (?, ?, ?, ?)', [
        hashOf(invite),
        id,
        house.clock.wall() + INVITE_DAYS * 86_400_000,
        house.sealing.seal(invite, ['invitation', hashOf(invite)]),
      ]);
    await tx.record({
      action: invite === null ? 'take on operator' : 'invite operator',
      subject: operator.name,
      after: { mail, role: operator.role, customers: operator.customers ?? 'every' },
      topic: 'ground',
      id,
    });
    return { id };
  });
}

/** Who invited an operator less than thirty days ago; undefined: nobody did. */
export async function invitedLately(db: Connection, id: string, wall: number): Promise<string | undefined> {
  const row = await db.row<{ by: string | null }>(
    'SELECT invited_by AS `by` FROM operator WHERE id = ? AND invited_wall > ?',
    [id, wall - APPROVAL_DAYS * 86_400_000],
  );
  return row?.by ?? undefined;
}

/**
 * Mails invitations that are not mailed yet. What the mail service does not take now is tried again; the address leads to
 * where the password is chosen, so nobody but who is invited gets to see it. One that is refused keeps no other waiting.
 * @throws OutsideError when the mail service did not take one, once all were tried
 */
export async function mailInvites({ db, mail, sealing, address, clock }: App): Promise<void> {
  if (address === undefined) return;
  const rows = await db.rows<{ token_hash: string; sealed: Buffer; mail: string; name: string }>(
    sql`SELECT i.token_hash, i.sealed, o.mail, o.name FROM invite i JOIN operator o ON o.id = i.operator_id
        WHERE i.sealed IS NOT NULL AND i.expires_at > ${clock.wall()} ORDER BY i.expires_at LIMIT 50`,
  );
  const refused: unknown[] = [];
  for (const row of rows)
    try {
      const link = new URL(`/invite/${sealing.unseal(row.sealed, ['invitation', row.token_hash])}`, address)
        .href;
      await mail.send(`invite ${row.token_hash}`, {
        to: [row.mail],
        subject: 'Your invitation to Laager',
        body: `${row.name}, choose your password here: ${link}\nThe link works once, for seven days.`,
      });
      await db.write(sql`UPDATE invite SET sealed = NULL WHERE token_hash = ${row.token_hash}`);
    } catch (error) {
      refused.push(error);
    }
  if (refused.length > 0) throw refused[0];
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
