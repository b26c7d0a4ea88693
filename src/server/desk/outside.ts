import { customerCode, type DeskIdentity } from '../../contract';
import { systemScope, type CustomerScope, type Scope, type SealPlace } from '../access';
import type { App } from '../app';
import { sql, type Connection } from '../db';
import { beginWay, keptWay, toldBy, type Told } from '../identity';
import { unusable } from '../problem';
import { write, type WriteHouse } from '../write';
import { openDesk } from './session';

/** Why somebody was not let in from there. */
export type DeskRefusal = 'not reached' | 'over' | 'refused' | 'unknown';

interface Stored {
  readonly customer_id: string;
  readonly code: string;
  readonly name: string;
  readonly issuer: string;
  readonly client: string;
  readonly secret_sealed: Buffer;
  readonly known_by: DeskIdentity['knownBy'];
  readonly only_there: number;
}

const STORED = sql`SELECT d.customer_id, c.code, d.name, d.issuer, d.client, d.secret_sealed, d.known_by, d.only_there
  FROM desk_identity d JOIN customer c ON c.id = d.customer_id AND c.state IN ('active','trial','leaving')`;

const read = ({ name, issuer, client, known_by, only_there }: Stored): DeskIdentity => ({
  name,
  issuer,
  client,
  knownBy: known_by,
  onlyThere: only_there === 1,
});

export async function deskIdentity(
  db: Connection,
  { customer }: CustomerScope,
): Promise<DeskIdentity | null> {
  const row = await db.row<Stored>(sql`${STORED} WHERE c.id = ${customer.id}`);
  return row ? read(row) : null;
}

/** What the page where one comes in says of a customer's service; undefined: there is none. */
export async function waysIn(
  db: Connection,
  code: string,
): Promise<{ readonly code: string; readonly name: string; readonly onlyThere: boolean } | undefined> {
  const row = await byCode(db, code);
  return row && { code: row.code, name: row.name, onlyThere: row.only_there === 1 };
}

async function byCode(db: Connection, asked: string): Promise<Stored | undefined> {
  const code = asked.toUpperCase();
  // A code that cannot be is of a customer that is not there.
  if (customerCode.validate(code).error) return undefined;
  return db.row<Stored>(sql`${STORED} WHERE c.code = ${code} AND c.kind = 'customer'`);
}

/**
 * Keeps a customer's identity service; an empty issuer: none.
 * @throws Problem 422 beside what is missing
 */
export async function keepIdentity(
  house: WriteHouse,
  scope: CustomerScope,
  { secret, ...asked }: DeskIdentity & { readonly secret: string },
): Promise<void> {
  const { id, code } = scope.customer;
  await write(house, scope, [{ table: 'customer', key: { id } }], async (tx) => {
    const before = await tx.row<Stored>(sql`${STORED} WHERE c.id = ${id}`);
    const told = before ? { issuer: before.issuer, onlyThere: before.only_there === 1 } : null;
    if (asked.issuer === '') await tx.write(sql`DELETE FROM desk_identity WHERE customer_id = ${id}`);
    else {
      if (asked.name === '') throw unusable('name', 'says what the button says');
      if (asked.client === '') throw unusable('client', 'is what we are called there');
      // What was given for one service is not shown to another.
      const kept = before?.issuer === asked.issuer ? before.secret_sealed : undefined;
      const sealed = secret === '' ? kept : house.sealing.seal(secret, placeOf(id));
      if (!sealed) throw unusable('secret', 'is not known yet');
      await tx.write(
        sql`REPLACE INTO desk_identity (customer_id, name, issuer, client, secret_sealed, known_by, only_there)
            VALUES (${id}, ${asked.name}, ${asked.issuer}, ${asked.client}, ${sealed}, ${asked.knownBy}, ${asked.onlyThere})`,
      );
    }
    await tx.record({
      action: 'say how people sign in',
      subject: asked.issuer === '' ? 'by mail alone' : asked.issuer,
      before: told,
      after:
        asked.issuer === ''
          ? null
          : { issuer: asked.issuer, knownBy: asked.knownBy, onlyThere: asked.onlyThere },
      topic: 'people',
      id: code,
    });
  });
}

const placeOf = (customer: string): SealPlace => ['desk identity', customer];

const serviceOf = (app: App, row: Stored): { issuer: string; client: string; secret: string } => ({
  issuer: row.issuer,
  client: row.client,
  secret: app.sealing.unseal(row.secret_sealed, placeOf(row.customer_id)),
});

/** Sends somebody to their own identity service. */
export async function beginAtDesk(
  app: App,
  code: string,
  redirect: string,
): Promise<{ readonly to: string; readonly kept: string } | DeskRefusal> {
  const row = await byCode(app.db, code);
  if (!row) return 'not reached';
  const way = await beginWay(app, serviceOf(app, row), {
    to: `desk of ${row.customer_id}`,
    next: row.code,
    redirect,
    scope: 'openid profile email',
  });
  return way ?? 'not reached';
}

/** Of which customer a way leads to a desk. */
export const customerOfWay = (app: App, kept: string | undefined): string => keptWay(app, kept)?.next ?? '';

/**
 * Lets somebody in who comes back from their identity service, as the one person of that customer who has their mail, where
 * the service has made sure of it, or their account. Whoever is nobody there, or not one alone, is not let in.
 * @returns what the cookie holds
 */
export async function endAtDesk(
  app: App,
  came: URL,
  kept: string | undefined,
): Promise<{ readonly token: string } | DeskRefusal> {
  const way = keptWay(app, kept);
  const row = way && (await byCode(app.db, way.next));
  if (!row || way.to !== `desk of ${row.customer_id}`) return 'over';
  let told: Told;
  try {
    told = await toldBy(serviceOf(app, row), came, way);
  } catch (error) {
    app.log.warn({ error: String(error), customer: row.code }, 'a sign-in at a desk was refused');
    return 'refused';
  }
  if (row.known_by === 'mail' ? !told.verified || told.mail === '' : told.account === '') return 'unknown';
  const people = await app.db.rows<{ id: string; name: string }>(
    sql`SELECT p.id, TRIM(CONCAT(p.given, ' ', p.family)) AS name FROM person p
        WHERE p.customer_id = ${row.customer_id} AND p.left_at IS NULL
          AND ${row.known_by === 'mail' ? sql`p.mail = ${told.mail}` : sql`p.held_account = ${told.account}`} LIMIT 2`,
  );
  const [person] = people;
  if (!person || people.length > 1) return 'unknown';
  const scope = systemScope({ id: row.customer_id, code: row.code });
  return { token: await openDesk(app, scope, person, row.issuer) };
}

/** Nobody needs the secret of who has left any more. */
export const forgetIdentity = (tx: Connection, { customer }: CustomerScope): Promise<number> =>
  tx.write(sql`DELETE FROM desk_identity WHERE customer_id = ${customer.id}`);

/** Seals the secrets with the key that seals now. @returns how many those were */
export const sealIdentitiesAnew = (house: WriteHouse, scope: Scope): Promise<number> =>
  write(house, scope, [], async (tx) => {
    const rows = await tx.rows<{ customer_id: string; secret_sealed: Buffer }>(
      sql`SELECT customer_id, secret_sealed FROM desk_identity FOR UPDATE`,
    );
    const old = rows.filter((one) => !house.sealing.isSealedNow(one.secret_sealed, placeOf(one.customer_id)));
    for (const { customer_id, secret_sealed } of old) {
      const place = placeOf(customer_id);
      const anew = house.sealing.seal(house.sealing.unseal(secret_sealed, place), place);
      await tx.write(
        sql`UPDATE desk_identity SET secret_sealed = ${anew} WHERE customer_id = ${customer_id}`,
      );
    }
    return old.length;
  });
