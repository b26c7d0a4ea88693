import type { DirectoryLink, READING_STATES, SentLink } from '../../contract';
import { parseDn } from '../../core/ldap';
import type { DirectoryScope } from '../../core/people';
import type { CustomerScope, SealPlace } from '../access';
import type { App } from '../app';
import { sql, type Connection } from '../db';
import type { DirectoryReader } from '../directory';
import { notFound, unusable } from '../problem';
import { tell } from '../live';
import { pushedReader } from './pushed';

/** So many of those who cannot be taken in, or would leave, are told. */
export const MOST_TOLD = 20;

export interface Stored {
  readonly realm: string;
  readonly secret_sealed: Buffer | null;
  readonly via: SentLink['via'] | null;
  readonly address: string | null;
  readonly base_dn: string | null;
  readonly bind_as: string | null;
  readonly units: string | null;
  readonly groups_in: string | null;
  readonly state: (typeof READING_STATES)[number] | null;
  readonly says: string | null;
  readonly leaving: string | null;
  readonly agreed: string | null;
  readonly read_at: number | null;
  readonly moved_at: number | null;
  readonly people: number | null;
  readonly unfit: string | null;
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

/** Who could not be taken in when it was last read, by their ids in it: who, and why. */
export const unfitOf = ({ unfit }: Pick<Stored, 'unfit'>): Readonly<Record<string, string>> =>
  JSON.parse(unfit ?? '{}') as Record<string, string>;

/** Of those of whom a directory told, how many have come since it was last read. @param known whoever of them was taken in once */
export function cameSince(
  row: Stored,
  told: readonly { readonly id: string }[],
  known: readonly { readonly directoryId: string | null }[],
): number {
  const before = new Set([...known.map(({ directoryId }) => directoryId), ...Object.keys(unfitOf(row))]);
  return told.filter(({ id }) => !before.has(id)).length;
}

export async function directoryLink(db: Connection, scope: CustomerScope): Promise<DirectoryLink> {
  const row = await stored(db, scope);
  return {
    realm: row.realm,
    linked: row.secret_sealed !== null,
    ...placeOf(row),
    ...scopeOf(row),
    state: row.state ?? 'linked',
    says: row.says ?? '',
    leaving: row.state === 'stopped' ? row.leaving : null,
    readAt: row.read_at,
    movedAt: row.moved_at,
    people: row.people,
    bad: Object.values(unfitOf(row)).slice(0, MOST_TOLD),
  };
}

/** What of a link can be kept otherwise; null: there is none. */
export async function keptLink(db: Connection, scope: CustomerScope): Promise<KeptLink | null> {
  const row = await stored(db, scope);
  return row.secret_sealed === null ? null : { ...placeOf(row), ...scopeOf(row) };
}

/** Whoever has it says who a customer's people are: it is long enough not to be guessed. */
const LEAST_TOKEN = 24;

type Place = Pick<SentLink, 'via' | 'address' | 'base' | 'bindAs'>;
type KeptLink = Place & DirectoryScope;

const placeOf = (row: Stored): Place => ({
  via: row.via ?? 'scim',
  address: row.address ?? '',
  base: row.base_dn ?? '',
  bindAs: row.bind_as ?? '',
});

/** The directory as it is linked, read with the secret that is kept. @throws Problem 422 where it is not linked yet */
export const readerOf = (app: App, scope: CustomerScope, row: Stored): DirectoryReader =>
  readerFor(app, scope, row, { ...placeOf(row), secret: null });

/** Where the secret of a customer's directory is kept. */
export const linkPlace = (customer: string): SealPlace => ['directory link', customer];

/**
 * A directory as somebody would link it, read with their secret, or with the one that is kept where they give none.
 * @throws Problem 422 beside the field
 */
export function readerFor(
  app: App,
  scope: CustomerScope,
  row: Stored,
  { secret, ...place }: Place & Pick<SentLink, 'secret'>,
): DirectoryReader {
  const before = placeOf(row);
  // What was given for one place is not shown to another.
  const isThere = (['via', 'address', 'bindAs'] as const).every((name) => place[name] === before[name]);
  const kept =
    row.secret_sealed === null || !isThere
      ? undefined
      : app.sealing.unseal(row.secret_sealed, linkPlace(scope.customer.id));
  const used = secret ?? kept;
  if (used === undefined) throw unusable('secret', 'is not known yet');
  if (place.via === 'push') {
    if (used.length < LEAST_TOKEN) throw unusable('secret', `has at least ${LEAST_TOKEN} characters`);
    return pushedReader(app, scope);
  }
  if (place.via === 'scim') return app.directory.reader({ via: 'scim', realm: row.realm }, used);
  if (!/^ldaps?:\/\/[^/?#\s]+$/i.test(place.address))
    throw unusable('address', 'is like ldaps://directory.example');
  for (const name of ['base', 'bindAs'] as const)
    if ((parseDn(place[name])?.length ?? 0) === 0)
      throw unusable(name, 'is a name like dc=harbour,dc=example');
  return app.directory.reader({ ...place, via: 'ldap', url: place.address }, used);
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
