import type { Draft } from '../../contract';
import type { Scope } from '../access';
import type { Connection } from '../db';
import { notFound } from '../problem';
import { write, type WriteHouse } from '../write';

/** Customers that are half filled in, the newest first. */
export async function listDrafts(db: Connection): Promise<Draft[]> {
  const rows = await db.rows<{ id: string; by: string; at: number; fields: string }>(
    'SELECT id, by_name AS `by`, at, fields FROM customer_draft ORDER BY at DESC LIMIT 200',
  );
  return rows.map(({ fields, ...row }) => {
    const filled = JSON.parse(fields) as Record<string, string>;
    return { ...row, fields: filled, title: filled.name || filled.code || 'without a name yet' };
  });
}

/** Keeps what is filled in so far: whoever goes on with it has it. */
export const keepDraft = (
  house: WriteHouse,
  scope: Scope,
  id: string,
  fields: Readonly<Record<string, string>>,
): Promise<void> =>
  write(house, scope, [], async (tx) => {
    await tx.write(
      `INSERT INTO customer_draft (id, by_name, at, fields) VALUES (?, ?, ?, ?)
       ON DUPLICATE KEY UPDATE by_name = VALUES(by_name), at = VALUES(at), fields = VALUES(fields)`,
      [id, scope.actor.name, house.clock.now(), JSON.stringify(fields)],
    );
  });

/** @throws Problem 404 */
export const dropDraft = (house: WriteHouse, scope: Scope, id: string): Promise<void> =>
  write(house, scope, [], async (tx) => {
    if ((await tx.write('DELETE FROM customer_draft WHERE id = ?', [id])) === 0) throw notFound('draft');
  });
