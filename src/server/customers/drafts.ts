import type { Draft } from '../../contract';
import type { Scope } from '../access';
import { sql, type Connection, type Sql } from '../db';
import { notFound } from '../problem';
import { write, type WriteHouse } from '../write';
import { draftForm } from './draft-form';

/** Nobody's customer yet: who reaches every customer sees them all, who reaches some only what they began themselves. */
const shownTo = ({ customers, actor }: Scope): Sql => (customers ? sql`by_id = ${actor.id}` : sql`TRUE`);

/** Customers that are half filled in, the newest first. */
export async function listDrafts(db: Connection, scope: Scope): Promise<Draft[]> {
  const rows = await db.rows<{ id: string; by: string; at: number; fields: string }>(
    sql`SELECT id, by_name AS \`by\`, at, fields FROM customer_draft WHERE ${shownTo(scope)} ORDER BY at DESC LIMIT 200`,
  );
  return rows.map(({ fields, ...row }) => {
    const filled = draftForm.read(fields).fields;
    return { ...row, fields: filled, title: filled.name || filled.code || 'without a name yet' };
  });
}

/** A draft as it is kept; null: there is none that is shown to them. */
export async function keptDraft(
  db: Connection,
  scope: Scope,
  id: string,
): Promise<Pick<Draft, 'fields'> | null> {
  const row = await db.row<{ fields: string }>(
    sql`SELECT fields FROM customer_draft WHERE id = ${id} AND ${shownTo(scope)}`,
  );
  return row ? draftForm.read(row.fields) : null;
}

/** Keeps what is filled in so far: whoever goes on with it has it. @throws Problem 404 for one that is not shown to them */
export const keepDraft = (
  house: WriteHouse,
  scope: Scope,
  id: string,
  fields: Record<string, string>,
): Promise<void> =>
  write(house, scope, [], async (tx) => {
    const { actor } = scope;
    const [there, shown] = [
      await tx.row(sql`SELECT id FROM customer_draft WHERE id = ${id} FOR UPDATE`),
      await tx.row(sql`SELECT id FROM customer_draft WHERE id = ${id} AND ${shownTo(scope)}`),
    ];
    if (there && !shown) throw notFound('draft');
    await tx.write(
      `INSERT INTO customer_draft (id, by_id, by_name, at, fields) VALUES (?, ?, ?, ?, ?)
       ON DUPLICATE KEY UPDATE by_name = VALUES(by_name), at = VALUES(at), fields = VALUES(fields)`,
      [id, actor.id, actor.name, house.clock.now(), draftForm.write({ fields })],
    );
  });

/** @throws Problem 404 */
export const dropDraft = (house: WriteHouse, scope: Scope, id: string): Promise<void> =>
  write(house, scope, [], async (tx) => {
    const dropped = await tx.write(sql`DELETE FROM customer_draft WHERE id = ${id} AND ${shownTo(scope)}`);
    if (dropped === 0) throw notFound('draft');
  });
