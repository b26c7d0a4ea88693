import type { MessageText } from '../../contract';
import { TEXT_NAMES, unknownNames } from '../../core/message-texts';
import { MSP, type Scope } from '../access';
import { newId, sql, type Connection } from '../db';
import { conflict, notFound, unusable } from '../problem';
import { write, type WriteHouse } from '../write';

/** So many texts are kept: more, and nobody finds theirs. */
const MOST = 40;

/** What is said again and again, in the order in which it was written. They are the MSP's own, for all who work there. */
export const listTexts = (db: Connection): Promise<MessageText[]> =>
  db.rows<MessageText>(
    sql`SELECT id, text, made_by AS \`by\`, made_at AS at FROM message_text WHERE customer_id = ${MSP.id} ORDER BY id`,
  );

/** Keeps a text; the same one twice is one. @throws Problem 409 when there are too many, 422 beside `text` */
export async function keepText(house: WriteHouse, scope: Scope, text: string): Promise<void> {
  const [unknown] = unknownNames(text, TEXT_NAMES);
  if (unknown !== undefined)
    throw unusable('text', `{${unknown}} is nothing that can be filled: ${TEXT_NAMES.join(', ')} can`);
  await write(house, scope, [{ table: 'customer', key: { id: MSP.id } }], async (tx) => {
    const kept = await listTexts(tx);
    if (kept.some((one) => one.text === text)) return;
    if (kept.length >= MOST)
      throw conflict('many', `More than ${MOST} texts are not kept: give one up first.`);
    await tx.write(
      sql`INSERT INTO message_text (customer_id, id, text, made_by, made_at)
          VALUES (${MSP.id}, ${newId()}, ${text}, ${scope.actor.name}, ${house.clock.now()})`,
    );
    await tx.record({
      action: 'keep text',
      subject: text,
      after: { text },
      topic: 'ground',
      id: 'message texts',
    });
  });
}

/** @throws Problem 404 */
export const dropText = (house: WriteHouse, scope: Scope, id: string): Promise<void> =>
  write(house, scope, [], async (tx) => {
    const row = await tx.row<{ text: string }>(
      sql`SELECT text FROM message_text WHERE customer_id = ${MSP.id} AND id = ${id} FOR UPDATE`,
    );
    if (!row) throw notFound('text');
    await tx.write(sql`DELETE FROM message_text WHERE customer_id = ${MSP.id} AND id = ${id}`);
    await tx.record({
      action: 'drop text',
      subject: row.text,
      before: row,
      topic: 'ground',
      id: 'message texts',
    });
  });
