import type { DirectoryLink, READING_STATES } from '../../contract';
import type { DirectoryScope } from '../../core/people';
import type { CustomerScope } from '../access';
import type { App } from '../app';
import { sql, type Connection } from '../db';
import type { DirectoryReader } from '../directory';
import { notFound, unusable } from '../problem';
import { tell } from '../live';

export interface Stored {
  readonly realm: string;
  readonly secret_sealed: Buffer | null;
  readonly units: string | null;
  readonly groups_in: string | null;
  readonly state: (typeof READING_STATES)[number] | null;
  readonly says: string | null;
  readonly leaving: string | null;
  readonly agreed: string | null;
  readonly read_at: number | null;
  readonly people: number | null;
  readonly since: string | null;
  readonly total_people: number;
  readonly total_groups: number;
  readonly whole_wall: number;
  readonly round: number;
}

export async function stored(db: Connection, { customer }: CustomerScope): Promise<Stored> {
  const row = await db.row<Stored>(
    sql`SELECT c.realm, d.* FROM customer c LEFT JOIN directory_link d ON d.customer_id = c.id
        WHERE c.id = ${customer.id}`,
  );
  if (!row) throw notFound('customer');
  return row;
}

export const scopeOf = ({ units, groups_in }: Pick<Stored, 'units' | 'groups_in'>): DirectoryScope => ({
  units: JSON.parse(units ?? '[]') as string[],
  groups: JSON.parse(groups_in ?? '[]') as string[],
});

export async function directoryLink(db: Connection, scope: CustomerScope): Promise<DirectoryLink> {
  const row = await stored(db, scope);
  return {
    realm: row.realm,
    linked: row.secret_sealed !== null,
    ...scopeOf(row),
    state: row.state ?? 'linked',
    says: row.says ?? '',
    leaving: row.state === 'stopped' ? row.leaving : null,
    readAt: row.read_at,
    people: row.people,
  };
}

/** The directory, read with this secret, or with the one that is kept where none is given. @throws Problem 422 */
export function readerOf(app: App, row: Stored, secret: string | null): DirectoryReader {
  const used = secret ?? (row.secret_sealed === null ? undefined : app.sealing.unseal(row.secret_sealed));
  if (used === undefined) throw unusable('secret', 'is not known yet');
  return app.directory.reader(row.realm, used);
}

/** Says how far the reading has come, to whoever looks at it. */
export async function noteState(
  app: App,
  { customer }: CustomerScope,
  state: (typeof READING_STATES)[number],
  says: string,
): Promise<void> {
  await app.db.write(
    sql`UPDATE directory_link SET state = ${state}, says = ${says.slice(0, 400)} WHERE customer_id = ${customer.id}`,
  );
  await tell(app.db, customer.id, 'people', customer.code, app.clock.wall());
}
