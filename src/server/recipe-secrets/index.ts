import type { RecipeSecret } from '../../contract';
import type { CustomerScope, Scope, SealPlace } from '../access';
import { refuseGone } from '../customers';
import type { Connection } from '../db';
import { notFound } from '../problem';
import { write, type WriteHouse } from '../write';

/** The names of secrets that recipes may refer to, by name. None is ever told again. */
export const listSecrets = (db: Connection, { customer }: CustomerScope): Promise<RecipeSecret[]> =>
  db.rows<RecipeSecret>(
    'SELECT name, changed_by AS `by`, changed_at AS at FROM recipe_secret WHERE customer_id = ? ORDER BY name',
    [customer.id],
  );

const placeOf = (customer: string, name: string): SealPlace => ['recipe secret', customer, name];

/** Keeps a secret, sealed, under a name; one of the same name is replaced. */
export const keepSecret = (
  house: WriteHouse,
  scope: CustomerScope,
  { name, value }: { readonly name: string; readonly value: string },
): Promise<void> =>
  write(house, scope, [], async (tx) => {
    await refuseGone(tx, scope);
    await tx.write(
      `INSERT INTO recipe_secret (customer_id, name, sealed, changed_by, changed_at) VALUES (?, ?, ?, ?, ?)
       ON DUPLICATE KEY UPDATE sealed = VALUES(sealed), changed_by = VALUES(changed_by), changed_at = VALUES(changed_at)`,
      [
        scope.customer.id,
        name,
        house.sealing.seal(value, placeOf(scope.customer.id, name)),
        scope.actor.name,
        house.clock.now(),
      ],
    );
    await tx.record({ action: 'keep secret', subject: `secret ${name}`, topic: 'ground', id: name });
  });

/** @throws Problem 404 */
export const dropSecret = (house: WriteHouse, scope: CustomerScope, name: string): Promise<void> =>
  write(house, scope, [], async (tx) => {
    const gone = await tx.write('DELETE FROM recipe_secret WHERE customer_id = ? AND name = ?', [
      scope.customer.id,
      name,
    ]);
    if (gone === 0) throw notFound('secret');
    await tx.record({ action: 'drop secret', subject: `secret ${name}`, topic: 'ground', id: name });
  });

/** All of them, for a step that is at work. */
export async function readSecrets(
  { db, sealing }: Pick<WriteHouse, 'db' | 'sealing'>,
  { customer }: CustomerScope,
): Promise<ReadonlyMap<string, string>> {
  const rows = await db.rows<{ name: string; sealed: Buffer }>(
    'SELECT name, sealed FROM recipe_secret WHERE customer_id = ?',
    [customer.id],
  );
  return new Map(rows.map(({ name, sealed }) => [name, sealing.unseal(sealed, placeOf(customer.id, name))]));
}

/** Nobody needs the secrets of who has left any more. */
export const forgetSecrets = (tx: Connection, { customer }: CustomerScope): Promise<number> =>
  tx.write('DELETE FROM recipe_secret WHERE customer_id = ?', [customer.id]);

/** Seals them with the key that seals now. @returns how many those were */
export const sealSecretsAnew = (house: WriteHouse, scope: Scope): Promise<number> =>
  write(house, scope, [], async (tx) => {
    const rows = await tx.rows<{ customer_id: string; name: string; sealed: Buffer }>(
      'SELECT customer_id, name, sealed FROM recipe_secret FOR UPDATE',
    );
    const old = rows.filter(
      (row) => !house.sealing.isSealedNow(row.sealed, placeOf(row.customer_id, row.name)),
    );
    for (const { customer_id, name, sealed } of old)
      await tx.write('UPDATE recipe_secret SET sealed = ? WHERE customer_id = ? AND name = ?', [
        house.sealing.seal(
          house.sealing.unseal(sealed, placeOf(customer_id, name)),
          placeOf(customer_id, name),
        ),
        customer_id,
        name,
      ]);
    return old.length;
  });
