import { createHash } from 'node:crypto';
import { entitled, holdsAt, seated } from '../../core/grants';
import { MSP, systemScope, type CustomerScope } from '../access';
import type { App } from '../app';
import { insertMany, join, sql, type Connection } from '../db';
import { OutsideError } from '../outside';
import { granteesOf, groupFacts } from '../people';
import { write } from '../write';
import { offersOf, type KnownOffer } from './offers';

const hashOf = (accounts: readonly string[]): string =>
  createHash('sha256').update(accounts.join('\n')).digest('hex');

/**
 * Gives the licence seats of a publication to those to whom it is granted, and takes them back from the others. What is
 * given stays given as long as it is granted.
 * @returns the accounts of those who have one
 */
export function seatPeople(app: App, scope: CustomerScope, publication: string): Promise<string[]> {
  const { id: customer } = scope.customer;
  return write(
    app,
    scope,
    [{ table: 'resource', key: { customer_id: customer, id: publication } }],
    async (tx) => {
      const now = app.clock.now();
      const version = await tx.row<{ people_version: number; intent_version: number }>(
        sql`SELECT c.people_version, e.version AS intent_version FROM resource r
            JOIN customer c ON c.id = r.customer_id
            JOIN environment e ON (e.customer_id, e.id) = (r.customer_id, r.environment_id)
            WHERE r.customer_id = ${customer} AND r.id = ${publication}`,
      );
      const offer = (await offersOf(tx, scope)).find((one) => one.publication === publication);
      const people = offer ? await granteesOf(tx, scope) : [];
      const to = offer ? entitled(offer, people, await groupFacts(tx, scope), now) : [];
      const rows = await tx.rows<{ person_id: string }>(
        sql`SELECT person_id FROM licence_seat WHERE customer_id = ${customer} AND resource_id = ${publication}`,
      );
      const holders = new Set(rows.map((row) => row.person_id));
      const owners = new Set(offer ? await ownersIn(tx, scope, offer) : []);
      const seats = new Set(seated(to, holders, offer?.licences ?? 0, owners));
      const back = [...holders].filter((id) => !seats.has(id));
      if (back.length > 0)
        await tx.write(
          sql`DELETE FROM licence_seat WHERE customer_id = ${customer} AND resource_id = ${publication}
            AND person_id IN (${join(back)})`,
        );
      await insertMany(
        tx,
        'licence_seat',
        ['customer_id', 'resource_id', 'person_id', 'given_at'],
        [...seats].filter((id) => !holders.has(id)).map((id) => [customer, publication, id, now]),
      );
      const accounts = people.filter(({ id }) => seats.has(id)).map((one) => one.account);
      const ends = (offer?.grants ?? [])
        .filter((one) => holdsAt(one, now))
        .flatMap(({ until }) => until ?? []);
      await tx.write(
        sql`INSERT INTO publication_reach (customer_id, resource_id, people_version, intent_version, due_at, told)
          VALUES (${customer}, ${publication}, ${version?.people_version ?? 0}, ${version?.intent_version ?? 0},
            ${ends.length === 0 ? null : Math.min(...ends)}, '')
          ON DUPLICATE KEY UPDATE people_version = VALUES(people_version), intent_version = VALUES(intent_version),
            due_at = VALUES(due_at),
            told = IF(told = ${hashOf(accounts)}, told, '')`,
      );
      return accounts;
    },
  );
}

/** Who has a desktop of their own in the pool of an offer, by our ids. */
async function ownersIn(
  tx: Connection,
  { customer }: CustomerScope,
  { environmentId, pool }: KnownOffer,
): Promise<string[]> {
  const rows = await tx.rows<{ person: string }>(
    sql`SELECT JSON_VALUE(attributes, '$.personId') AS person FROM resource
        WHERE customer_id = ${customer.id} AND environment_id = ${environmentId} AND kind = 'host' AND wanted
          AND returned_at IS NULL AND JSON_VALUE(attributes, '$.pool') = ${`pool:${pool}`}
          AND JSON_VALUE(attributes, '$.personId') <> '' AND NOT JSON_EXISTS(attributes, '$.kept')`,
  );
  return rows.map(({ person }) => person);
}

/** What is published no more gives its seats back. */
export const giveBackSeats = (app: App): Promise<number> =>
  app.db.write(
    sql`DELETE FROM licence_seat WHERE EXISTS (SELECT 1 FROM resource r WHERE r.customer_id = licence_seat.customer_id
          AND r.id = licence_seat.resource_id AND r.returned_at IS NOT NULL) LIMIT 5000`,
  );

const MOST_AT_ONCE = 100;

/** Where people came, left or changed groups, or a grant has ended, seats are given anew, and the provider is told. */
export async function keepSeats(app: App): Promise<void> {
  const due = await app.db.rows<Due>(
    sql`SELECT r.customer_id, c.code, r.id AS resource_id, r.site_code, r.ref FROM resource r
        JOIN customer c ON c.id = r.customer_id
        JOIN environment e ON (e.customer_id, e.id) = (r.customer_id, r.environment_id)
        LEFT JOIN publication_reach q ON (q.customer_id, q.resource_id) = (r.customer_id, r.id)
        WHERE r.kind = 'publication' AND r.returned_at IS NULL AND r.wanted AND r.ref IS NOT NULL
          AND r.customer_id <> ${MSP.id} AND (q.resource_id IS NULL OR q.people_version <> c.people_version
            OR q.intent_version <> e.version
            OR q.due_at <= ${app.clock.now()} OR q.told = '')
        LIMIT ${MOST_AT_ONCE}`,
  );
  // Who does not answer is asked once: the others are not kept waiting.
  const silent = new Set<string>();
  for (const one of due) {
    if (silent.has(one.site_code)) continue;
    try {
      await tell(app, one);
    } catch (error) {
      // Whom it was not told yet, it is told the next time.
      if (!(error instanceof OutsideError)) throw error;
      silent.add(one.site_code);
      app.log.info({ publication: one.resource_id, says: error.says }, 'not told whom to let in');
    }
  }
}

interface Due {
  readonly customer_id: string;
  readonly code: string;
  readonly resource_id: string;
  readonly site_code: string;
  readonly ref: string;
}

async function tell(app: App, { customer_id, code, resource_id, site_code, ref }: Due): Promise<void> {
  const accounts = await seatPeople(app, systemScope({ id: customer_id, code }), resource_id);
  const { port } = await app.providers.at(site_code);
  const present = await port.resource(ref);
  // What is gone there is made anew, and told then.
  const isThere = present !== undefined && present.state !== 'gone';
  if (isThere && JSON.stringify(present.attributes.accounts) !== JSON.stringify(accounts))
    await port.change(ref, present.version, { accounts });
  await app.db.write(
    sql`UPDATE publication_reach SET told = ${isThere ? hashOf(accounts) : 'gone'} WHERE customer_id = ${customer_id} AND resource_id = ${resource_id}`,
  );
}

/** Who has a licence seat of which pool now, by our ids. */
export const seatHolders = (
  db: Connection,
  { customer }: CustomerScope,
): Promise<{ readonly environmentId: string; readonly pool: string; readonly who: string }[]> =>
  db.rows(
    sql`SELECT r.environment_id AS environmentId, SUBSTRING(JSON_VALUE(r.attributes, '$.pool'), 6) AS pool,
          l.person_id AS who
        FROM licence_seat l JOIN resource r ON (r.customer_id, r.id) = (l.customer_id, l.resource_id)
        WHERE l.customer_id = ${customer.id} ORDER BY who`,
  );
