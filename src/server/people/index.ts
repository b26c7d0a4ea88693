import type { ImportOutcome, Person } from '../../contract';
import { parse } from 'csv-parse/sync';
import Joi from 'joi';
import { headerFault, readPeople, type FileRow, type PersonRow } from '../../core/people';
import type { CustomerScope } from '../access';
import type { App } from '../app';
import { insertMany, newId, type Connection } from '../db';
import { Problem } from '../problem';
import { write } from '../write';

/** A customer's people by account. @param page `after` is the account of the last one of the page before */
export async function listPeople(
  db: Connection,
  scope: CustomerScope,
  page: { readonly after?: string | undefined; readonly find?: string | undefined; readonly limit: number },
): Promise<Person[]> {
  const find = page.find ?? '';
  return db.rows<Person>(
    `SELECT id, account, given, family, mail FROM person
     WHERE customer_id = ? AND account > ?
       AND (? = '' OR INSTR(account, ?) > 0 OR INSTR(CONCAT(given, ' ', family), ?) > 0 OR INSTR(mail, ?) > 0)
     ORDER BY account LIMIT ${Math.floor(page.limit)}`,
    [scope.customer.id, page.after ?? '', find, find, find, find],
  );
}

/** A customer's first people by account: whom an environment is for, as long as no grants tell. */
export const firstPeople = (
  db: Connection,
  scope: CustomerScope,
  limit: number,
): Promise<{ account: string; mail: string }[]> =>
  db.rows<{ account: string; mail: string }>(
    `SELECT account, mail FROM person WHERE customer_id = ? ORDER BY account LIMIT ${Math.floor(limit)}`,
    [scope.customer.id],
  );

const MOST_ROWS = 20_000;

/**
 * Imports people from a CSV file (RFC 4180; UTF-8). When every row is good they are kept. When some are bad nothing is
 * kept unless `keepGood`: then the good ones are, and the bad ones are listed by line and reason.
 * @throws Problem 422 when the file cannot be read as CSV or its header lacks a column
 */
export async function importPeople(
  app: App,
  scope: CustomerScope,
  file: string,
  keepGood: boolean,
): Promise<ImportOutcome> {
  const rows = readCsv(file);
  const [header, ...body] = rows;
  const fault = header ? headerFault(header.cells) : 'the file is empty';
  if (!header || fault !== undefined) throw unreadable(fault ?? 'the file is empty');
  if (body.length > MOST_ROWS) throw unreadable(`it has ${body.length} rows; ${MOST_ROWS} is the most`);
  const { good, bad } = readPeople(header.cells, body);
  const before = new Map(
    (await listPeople(app.db, scope, { limit: 1_000_000 })).map((person) => [
      person.account.toLowerCase(),
      person,
    ]),
  );
  const added = good.filter((person) => !before.has(person.account.toLowerCase()));
  const changed = good.filter((person) => {
    const known = before.get(person.account.toLowerCase());
    return (
      known && (known.given !== person.given || known.family !== person.family || known.mail !== person.mail)
    );
  });
  const outcome = { good: good.length, added: added.length, changed: changed.length, bad };
  if (bad.length > 0 && !keepGood) return { kept: false, ...outcome };
  return keep(app, scope, [...added, ...changed], { kept: true, ...outcome });
}

async function keep(
  app: App,
  scope: CustomerScope,
  people: readonly PersonRow[],
  outcome: ImportOutcome,
): Promise<ImportOutcome> {
  return write(app, scope, [], async (tx) => {
    await insertMany(
      tx,
      'person',
      ['customer_id', 'id', 'account', 'given', 'family', 'mail'],
      people.map((person) => [
        scope.customer.id,
        newId(),
        person.account,
        person.given,
        person.family,
        person.mail,
      ]),
      'ON DUPLICATE KEY UPDATE given = VALUES(given), family = VALUES(family), mail = VALUES(mail)',
    );
    await tx.record({
      action: 'import people',
      subject: `${scope.customer.code} people`,
      after: {
        good: outcome.good,
        added: outcome.added,
        changed: outcome.changed,
        bad: outcome.bad.length,
      },
      topic: 'people',
      id: scope.customer.code,
    });
    return outcome;
  });
}

const parsedRows = Joi.array().items(
  Joi.object({
    record: Joi.array().items(Joi.string().allow('')).required(),
    raw: Joi.string().allow('').required(),
  }),
);

/** The rows of a file, each with the line it begins on; a record may hold line breaks within quotes. */
function readCsv(file: string): FileRow[] {
  const rows: FileRow[] = [];
  let line = 1;
  for (const { record, raw } of parsed(file)) {
    if (record.length > 1 || record[0] !== '') rows.push({ line, cells: record });
    line += raw.replace(/[\r\n]+$/, '').split('\n').length;
  }
  return rows;
}

function parsed(file: string): { record: string[]; raw: string }[] {
  try {
    const { error, value } = parsedRows.validate(
      parse(file, { bom: true, raw: true, info: true, relax_column_count: true }),
      { stripUnknown: true },
    );
    if (error) throw error;
    return value as { record: string[]; raw: string }[];
  } catch (error) {
    throw unreadable(error instanceof Error ? error.message : String(error));
  }
}

const unreadable = (why: string): Problem =>
  new Problem(422, 'file', `The file cannot be read: ${why}.`, { fields: { file: why } });
