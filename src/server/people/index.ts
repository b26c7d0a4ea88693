import type { ImportOutcome, Person } from '../../contract';
import { stringify } from 'csv-stringify/sync';
import { headerFault, PEOPLE_COLUMNS, readPeople, type PeopleRead, type PersonRow } from '../../core/people';
import { identity } from '../../core/text';
import type { CustomerScope } from '../access';
import type { App } from '../app';
import { all, atMost, findBytes, holds, insertMany, join, newId, sql, type Connection } from '../db';
import { peopleOf } from '../plans';
import { notePeople, refuseGone } from '../customers';
import { renameSessions } from '../present';
import { write } from '../write';
import { isLdif, isPerson, parseLdif, rowOfEntry } from '../../core/ldap';
import { MOST_ROWS, readRows, unreadable } from '../csv';
import { noteAccounts, refuseBeyondPlan } from './take';

export {
  countMembers,
  granteesAmong,
  granteesIn,
  granteesOf,
  groupFacts,
  personById,
  type KnownGrantee,
} from './graph';
export { countHere, knownAmong, knownGroups, knownPeople, nameOfPerson, type KnownGroup } from './known';
export { forgetPeople, noteFollowed, takeGroups, takePeople, type GroupNow, type Still } from './take';

/** A customer's people by account. @param page `after` is the account of the last one of the page before */
export async function listPeople(
  db: Connection,
  scope: CustomerScope,
  page: { readonly after?: string | undefined; readonly find?: string | undefined; readonly limit: number },
): Promise<Person[]> {
  const where = all([
    sql`customer_id = ${scope.customer.id} AND left_at IS NULL`,
    page.after === undefined ? undefined : sql`account > ${page.after}`,
    holds(sql`find_text`, page.find),
  ]);
  return db.rows<Person>(
    sql`SELECT id, account, given, family, mail, unit FROM person WHERE ${where} ORDER BY account ${atMost(page.limit)}`,
  );
}

/** A customer's first people by account: whom an environment is for. */
export const firstPeople = (
  db: Connection,
  scope: CustomerScope,
  limit: number,
): Promise<{ account: string; mail: string }[]> =>
  db.rows<{ account: string; mail: string }>(
    `SELECT account, mail FROM person WHERE customer_id = ? AND left_at IS NULL ORDER BY account LIMIT ${Math.floor(limit)}`,
    [scope.customer.id],
  );

/** Which of some accounts are a customer's people, and whose. */
export const accountsAmong = (
  db: Connection,
  { customer }: CustomerScope,
  accounts: readonly string[],
): Promise<{ account: string; person: string }[]> =>
  db.rows(
    sql`SELECT account, id AS person FROM person WHERE customer_id = ${customer.id} AND left_at IS NULL
        AND account IN (${join(accounts.map(identity))})`,
  );

/** Everyone of a customer as CSV (RFC 4180), as it can be imported again. */
export async function peopleFile(db: Connection, scope: CustomerScope): Promise<string> {
  const people = await listPeople(db, scope, { limit: 1_000_000 });
  return stringify(people, { header: true, columns: [...PEOPLE_COLUMNS], record_delimiter: '\r\n' });
}

/** What a file says, whichever of the two it is. @throws Problem 422 when it is neither, or too long */
async function peopleIn(file: string): Promise<PeopleRead> {
  if (isLdif(file)) {
    const { entries, faults } = parseLdif(file);
    const people = entries.filter(isPerson);
    if (people.length > MOST_ROWS) throw unreadable(`it has more than ${MOST_ROWS} people`);
    const { good, bad } = readPeople([...PEOPLE_COLUMNS], people.map(rowOfEntry));
    return { good, bad: [...bad, ...faults].sort((a, b) => a.line - b.line) };
  }
  const [header, ...body] = await readRows(file);
  const fault = header ? headerFault(header.cells) : 'the file is empty';
  if (!header || fault !== undefined) throw unreadable(fault ?? 'the file is empty');
  return readPeople(header.cells, body);
}

/** So many bad rows are told; the others only counted. */
const MOST_TOLD = 200;

/**
 * Imports people from a CSV file (RFC 4180; UTF-8) or from an LDIF file (RFC 2849). When every row is good they are kept.
 * When some are bad nothing is kept unless `keepGood`: then the good ones are, and the bad ones are listed by line and reason.
 * @throws Problem 422 when the file cannot be read, or its header lacks a column
 */
export async function importPeople(
  app: App,
  scope: CustomerScope,
  file: string,
  keepGood: boolean,
): Promise<ImportOutcome> {
  const { good, bad } = await peopleIn(file);
  const before = new Map(
    (await listPeople(app.db, scope, { limit: 1_000_000 })).map((person) => [person.account, person]),
  );
  const added = good.filter((person) => !before.has(person.account));
  const changed = good.filter((person) => {
    const known = before.get(person.account);
    return (
      known && (known.given !== person.given || known.family !== person.family || known.mail !== person.mail)
    );
  });
  const outcome = {
    good: good.length,
    added: added.length,
    changed: changed.length,
    badRows: bad.length,
    bad: bad.slice(0, MOST_TOLD),
  };
  if (bad.length > 0 && !keepGood) return { kept: false, ...outcome };
  return keep(app, scope, [...added, ...changed], { kept: true, ...outcome });
}

async function keep(
  app: App,
  scope: CustomerScope,
  people: readonly PersonRow[],
  outcome: ImportOutcome,
): Promise<ImportOutcome> {
  const { id } = scope.customer;
  return write(app, scope, [{ table: 'customer', key: { id } }], async (tx) => {
    const before = await peopleOf(tx, scope);
    const rows = people.map((person) => ({ id: newId(), person }));
    await insertMany(
      tx,
      'person',
      ['customer_id', 'id', 'account', 'given', 'family', 'mail', 'find_text'],
      rows.map(({ id: personId, person }) => [
        id,
        personId,
        person.account,
        person.given,
        person.family,
        person.mail,
        findBytes(person.account, person.given, person.family, person.mail),
      ]),
      `ON DUPLICATE KEY UPDATE given = VALUES(given), family = VALUES(family), mail = VALUES(mail),
         find_text = VALUES(find_text)`,
    );
    await refuseGone(tx, scope);
    await refuseBeyondPlan(tx, scope, before, app.clock.now());
    await noteAccounts(
      tx,
      scope,
      rows.map((row) => row.id),
      app.clock.now(),
    );
    await renameSessions(tx, scope.customer.id);
    await notePeople(tx, scope);
    await tx.record({
      action: 'import people',
      subject: `${scope.customer.code} people`,
      after: {
        good: outcome.good,
        added: outcome.added,
        changed: outcome.changed,
        bad: outcome.badRows,
      },
      topic: 'people',
      id: scope.customer.code,
    });
    return outcome;
  });
}
