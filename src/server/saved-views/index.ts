import type { SavedView } from '../../contract';
import type { Scope } from '../access';
import type { Connection } from '../db';
import { conflict } from '../problem';
import { write, type WriteHouse } from '../write';

/** So many views of a list one may keep. */
const MOST = 40;

/** Views of a list that somebody keeps for themselves, by name. */
export const savedViews = (db: Connection, { actor }: Scope, page: string): Promise<SavedView[]> =>
  db.rows<SavedView>('SELECT name, query FROM saved_view WHERE operator_id = ? AND page = ? ORDER BY name', [
    actor.id,
    page,
  ]);

/** @throws Problem 409 when there are too many */
export const keepView = (
  house: WriteHouse,
  scope: Scope,
  { page, name, query }: SavedView & { readonly page: string },
): Promise<void> =>
  write(house, scope, [], async (tx) => {
    await tx.write(
      `INSERT INTO saved_view (operator_id, page, name, query) VALUES (?, ?, ?, ?)
       ON DUPLICATE KEY UPDATE query = VALUES(query)`,
      [scope.actor.id, page, name, query],
    );
    if ((await savedViews(tx, scope, page)).length > MOST)
      throw conflict('many', `More than ${MOST} views are not kept: give one up first.`);
  });

export const dropView = (house: WriteHouse, scope: Scope, page: string, name: string): Promise<void> =>
  write(house, scope, [], async (tx) => {
    await tx.write('DELETE FROM saved_view WHERE operator_id = ? AND page = ? AND name = ?', [
      scope.actor.id,
      page,
      name,
    ]);
  });
