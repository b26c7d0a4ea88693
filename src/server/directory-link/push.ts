import { answerScim, type ScimAnswer, type ScimRequest } from '../../core/scim';
import { customerCode } from '../../contract';
import { sameSecret, systemScope, type CustomerScope } from '../access';
import type { App } from '../app';
import { newId, sql, transaction } from '../db';
import { PushedEntries } from './pushed';
import { linkPlace } from './stored';

/** What is pushed is taken in so soon after the last of it: a directory sends one after the other. */
const REST_MS = 3_000;

/** Whose directory pushes; undefined: nobody's, or not with this token. */
export async function whoPushes(app: App, code: string, token: string): Promise<CustomerScope | undefined> {
  if (customerCode.validate(code).error) return undefined;
  const row = await app.db.row<{ id: string; code: string; secret_sealed: Buffer }>(
    sql`SELECT c.id, c.code, d.secret_sealed FROM directory_link d JOIN customer c ON c.id = d.customer_id
        WHERE c.code = ${code} AND c.kind = 'customer' AND c.state <> 'retired' AND d.via = 'push'`,
  );
  return row && sameSecret(token, app.sealing.unseal(row.secret_sealed, linkPlace(row.id)))
    ? systemScope({ id: row.id, code: row.code }, 'their directory')
    : undefined;
}

/**
 * A customer's directory tells us of its users and groups (SCIM 2.0, RFC 7644). What it tells is kept as it comes, and taken
 * in as everything that is read of a directory.
 */
export async function takePush(app: App, scope: CustomerScope, asked: ScimRequest): Promise<ScimAnswer> {
  if (asked.method === 'GET') return answerScim(new PushedEntries(app, scope), asked, newId);
  const { id: customer } = scope.customer;
  return transaction(app.db, async (tx) => {
    // One after the other: what comes at once is not decided by half of it.
    await tx.row(sql`SELECT customer_id FROM directory_link WHERE customer_id = ${customer} FOR UPDATE`);
    const answer = await answerScim(new PushedEntries(app, scope, tx), asked, newId);
    if (answer.status < 400)
      await tx.write(
        sql`UPDATE directory_link SET due_wall = ${app.clock.wall() + REST_MS} WHERE customer_id = ${customer}`,
      );
    return answer;
  });
}
