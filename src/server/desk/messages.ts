import type { Desk, DeskMessage } from '../../contract';
import { HOUR } from '../../core/calendar';
import { readAs, type TextValues } from '../../core/message-texts';
import type { CustomerScope } from '../access';
import type { App } from '../app';
import { newId, sql } from '../db';
import { nameOfPerson, personById } from '../people';
import { notFound, unusable } from '../problem';
import { write } from '../write';

/** What stands on somebody's desk, as they read it: said to them, or to everyone; the newest first. */
export async function messagesFor(
  app: App,
  { customer }: CustomerScope,
  person: string,
  names: { readonly person: string; readonly customer: string },
): Promise<Desk['messages']> {
  const said = await app.db.rows<Desk['messages'][number]>(
    sql`SELECT text, at FROM desk_message WHERE customer_id = ${customer.id}
        AND (person_id IS NULL OR person_id = ${person}) AND until_at > ${app.clock.now()} ORDER BY id DESC`,
  );
  return said.map(({ text, at }) => {
    const read = readAs(text, names);
    return { text: read.ok ? read.value : text, at };
  });
}

/** What stands on desks now: on one person's, or on all of the customer's. */
export const listMessages = (
  app: App,
  { customer }: CustomerScope,
  person: string | undefined,
): Promise<DeskMessage[]> =>
  app.db.rows<DeskMessage>(
    sql`SELECT id, person_id AS person, text, said_by AS \`by\`, at, until_at AS \`until\` FROM desk_message
        WHERE customer_id = ${customer.id} AND until_at > ${app.clock.now()}
          AND (${person ?? ''} = '' OR person_id IS NULL OR person_id = ${person ?? ''}) ORDER BY id DESC`,
  );

/** Whoever it is, they and their organisation have a name. */
const ANYBODY: TextValues = { person: '', customer: '' };

/** Says something on the desk of one of the customer's people, or of all. @throws Problem 404, 422 beside `text` */
export async function sayOnDesk(
  app: App,
  scope: CustomerScope,
  asked: { readonly person: string | null; readonly text: string; readonly hours: number },
): Promise<{ readonly id: string }> {
  const person = asked.person === null ? undefined : await personById(app.db, scope, asked.person);
  if (asked.person !== null && !person) throw notFound('person');
  const readable = readAs(asked.text, ANYBODY);
  if (!readable.ok) throw unusable('text', readable.problem);
  const now = app.clock.now();
  return write(app, scope, [], async (tx) => {
    const id = newId();
    await tx.write(
      sql`INSERT INTO desk_message (customer_id, id, person_id, text, said_by, at, until_at)
          VALUES (${scope.customer.id}, ${id}, ${asked.person}, ${asked.text}, ${scope.actor.name}, ${now},
            ${now + asked.hours * HOUR})`,
    );
    await tx.record({
      action: 'say on desks',
      subject: person ? nameOfPerson(person) : 'everyone',
      after: { text: asked.text, hours: asked.hours },
      topic: 'people',
      id: scope.customer.code,
    });
    return { id };
  });
}

/** Takes something from the desks. @throws Problem 404 */
export async function unsayOnDesk(app: App, scope: CustomerScope, id: string): Promise<void> {
  const { id: customer, code } = scope.customer;
  await write(app, scope, [], async (tx) => {
    const said = await tx.row<{ text: string }>(
      sql`SELECT text FROM desk_message WHERE customer_id = ${customer} AND id = ${id}`,
    );
    if (!said) throw notFound('message');
    await tx.write(sql`DELETE FROM desk_message WHERE customer_id = ${customer} AND id = ${id}`);
    await tx.record({
      action: 'take from desks',
      subject: said.text,
      before: { text: said.text },
      topic: 'people',
      id: code,
    });
  });
}

/** What stands nowhere any more. */
export const forgetMessages = (app: App): Promise<number> =>
  app.db.write(sql`DELETE FROM desk_message WHERE until_at < ${app.clock.now()} LIMIT 5000`);
