import { stringify } from 'csv-stringify/sync';
import type { DirectoryLink, ImportOutcome, LinkTry, SentLink } from '../../contract';
import {
  countDirectory,
  PEOPLE_COLUMNS,
  peopleInScope,
  readPeople,
  type DirectoryPerson,
  type DirectoryScope,
} from '../../core/people';
import { mostOf } from '../../core/plans';
import type { CustomerScope, Scope } from '../access';
import type { App } from '../app';
import { refuseGone } from '../customers';
import type { Connection } from '../db';
import { CredentialsRefused, OutsideError } from '../outside';
import { importPeople, listPeople } from '../people';
import { planFactsOf } from '../plans';
import { conflict, notFound, unusable } from '../problem';
import { write, type WriteHouse } from '../write';

/** So many of those who cannot be taken in are told. */
const MOST_TOLD = 20;

interface Stored {
  readonly realm: string;
  readonly account: string | null;
  readonly secret_sealed: Buffer | null;
  readonly units: string | null;
  readonly groups_in: string | null;
  readonly read_at: number | null;
  readonly people: number | null;
}

async function stored(db: Connection, { customer }: CustomerScope): Promise<Stored> {
  const row = await db.row<Stored>(
    `SELECT c.realm, d.account, d.secret_sealed, d.units, d.groups_in, d.read_at, d.people
     FROM customer c LEFT JOIN directory_link d ON d.customer_id = c.id WHERE c.id = ?`,
    [customer.id],
  );
  if (!row) throw notFound('customer');
  return row;
}

const scopeOf = ({ units, groups_in }: Stored): DirectoryScope => ({
  units: JSON.parse(units ?? '[]') as string[],
  groups: JSON.parse(groups_in ?? '[]') as string[],
});

export async function directoryLink(db: Connection, scope: CustomerScope): Promise<DirectoryLink> {
  const row = await stored(db, scope);
  return { realm: row.realm, account: row.account, ...scopeOf(row), readAt: row.read_at, people: row.people };
}

/** Reads the directory as it was said, with the secret that is kept where none is sent. @throws OutsideError */
async function readAs(
  app: App,
  scope: CustomerScope,
  { account, secret }: Pick<SentLink, 'account' | 'secret'>,
): Promise<DirectoryPerson[]> {
  const { realm, secret_sealed } = await stored(app.db, scope);
  const kept = secret_sealed === null ? undefined : app.sealing.unseal(secret_sealed);
  const used = secret ?? kept;
  if (used === undefined) throw unusable('secret', 'is not known yet');
  return app.directory.people(realm, { account, secret: used });
}

/** Signs in for real, and counts who would come; nothing of it is kept. */
export async function tryLink(app: App, scope: CustomerScope, sent: SentLink): Promise<LinkTry> {
  const nobody = {
    units: [],
    groups: [],
    people: 0,
    known: 0,
    disabled: 0,
    outside: 0,
    unfit: 0,
    bad: [],
    fits: true,
  };
  let people: DirectoryPerson[];
  try {
    people = await readAs(app, scope, sent);
  } catch (error) {
    if (!(error instanceof OutsideError)) throw error;
    const fix =
      error instanceof CredentialsRefused
        ? 'Copy account and secret again, whole and without spaces.'
        : 'Look whether the directory is up, and whether this account may read it.';
    return { outcome: 'fails', says: error.says, fix, ...nobody };
  }
  const { inScope, disabled, outside } = peopleInScope(people, sent);
  const { good, bad } = readPeople(PEOPLE_COLUMNS, rowsOf(inScope));
  const known = new Set(
    (await listPeople(app.db, scope, { limit: 1_000_000 })).map((one) => one.account.toLowerCase()),
  );
  const added = good.filter((one) => !known.has(one.account.toLowerCase())).length;
  const { plan, takes } = await planFactsOf(app.db, scope, app.clock.now());
  const most = mostOf(plan, 'people', app.clock.now());
  return {
    outcome: 'works',
    says: `signed in; ${people.length} are in it`,
    fix: '',
    ...countDirectory(people),
    people: good.length,
    known: good.length - added,
    disabled,
    outside,
    unfit: bad.length,
    bad: bad.slice(0, MOST_TOLD).map(({ line, reason }) => `${inScope[line - 1]?.account ?? ''}: ${reason}`),
    fits: most === null || takes.people + added <= most,
  };
}

const rowsOf = (people: readonly DirectoryPerson[]): { line: number; cells: string[] }[] =>
  people.map((one, n) => ({ line: n + 1, cells: PEOPLE_COLUMNS.map((column) => one[column]) }));

/** Keeps the link, when it lets us in. @throws Problem 422 beside `account` or `secret` */
export async function keepLink(
  app: App,
  scope: CustomerScope,
  { reason, ...sent }: SentLink & { readonly reason: string },
): Promise<DirectoryLink> {
  try {
    await readAs(app, scope, sent);
  } catch (error) {
    if (error instanceof OutsideError)
      throw unusable(error instanceof CredentialsRefused ? 'secret' : 'account', error.says);
    throw error;
  }
  const { id, code } = scope.customer;
  return write(app, scope, [{ table: 'customer', key: { id } }], async (tx) => {
    await refuseGone(tx, scope);
    const before = await directoryLink(tx, scope);
    const sealed =
      sent.secret === null ? (await stored(tx, scope)).secret_sealed : app.sealing.seal(sent.secret);
    await tx.write(
      `INSERT INTO directory_link (customer_id, account, secret_sealed, units, groups_in) VALUES (?, ?, ?, ?, ?)
       ON DUPLICATE KEY UPDATE account = VALUES(account), secret_sealed = VALUES(secret_sealed), units = VALUES(units),
         groups_in = VALUES(groups_in)`,
      [id, sent.account, sealed, JSON.stringify(sent.units), JSON.stringify(sent.groups)],
    );
    const scopeNow = ({
      account,
      units,
      groups,
    }: Pick<DirectoryLink, 'account' | 'units' | 'groups'>): object => ({
      account,
      units,
      groups,
    });
    await tx.record({
      action: 'link directory',
      subject: before.realm,
      before: before.account === null ? null : scopeNow(before),
      after: scopeNow(sent),
      reason,
      topic: 'people',
      id: code,
    });
    return directoryLink(tx, scope);
  });
}

/**
 * Takes in who is in scope, by the very way in which a file is. Nobody is taken away.
 * @throws Problem 409 where there is no link, 422 `plan` when they would be more than the plan allows
 */
export async function takeIn(app: App, scope: CustomerScope): Promise<ImportOutcome> {
  const row = await stored(app.db, scope);
  if (row.account === null) throw conflict('directory', 'The directory is not linked yet.');
  const people = await readAs(app, scope, { account: row.account, secret: null });
  const { inScope } = peopleInScope(people, scopeOf(row));
  const file = stringify(
    inScope.map((one) => PEOPLE_COLUMNS.map((column) => one[column])),
    { header: true, columns: [...PEOPLE_COLUMNS], record_delimiter: '\r\n' },
  );
  const outcome = await importPeople(app, scope, file, true);
  await app.db.write('UPDATE directory_link SET read_at = ?, people = ? WHERE customer_id = ?', [
    app.clock.now(),
    outcome.good,
    scope.customer.id,
  ]);
  return outcome;
}

/** Nobody needs the secret of who has left any more. */
export const forgetLink = (tx: Connection, { customer }: CustomerScope): Promise<number> =>
  tx.write('DELETE FROM directory_link WHERE customer_id = ?', [customer.id]);

/** Seals the secrets with the key that seals now. @returns how many those were */
export const sealLinksAnew = (house: WriteHouse, scope: Scope): Promise<number> =>
  write(house, scope, [], async (tx) => {
    const rows = await tx.rows<{ customer_id: string; secret_sealed: Buffer }>(
      'SELECT customer_id, secret_sealed FROM directory_link FOR UPDATE',
    );
    const old = rows.filter((one) => !house.sealing.isSealedNow(one.secret_sealed));
    for (const { customer_id, secret_sealed } of old)
      await tx.write('UPDATE directory_link SET secret_sealed = ? WHERE customer_id = ?', [
        house.sealing.seal(house.sealing.unseal(secret_sealed)),
        customer_id,
      ]);
    return old.length;
  });
