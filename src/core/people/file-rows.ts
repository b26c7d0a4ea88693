import { identity, unplainness } from '../text';
import type { PersonRow } from './row';

/** A row of a file with the line it began on, counted from 1. */
export interface FileRow {
  readonly line: number;
  readonly cells: readonly string[];
}

export interface PeopleRead {
  readonly good: readonly (PersonRow & { readonly line: number })[];
  readonly bad: readonly { readonly line: number; readonly reason: string }[];
}

export const PEOPLE_COLUMNS = ['account', 'given', 'family', 'mail'] as const;

/** What is wrong with a header row; undefined when it names the four columns, in any order and case. */
export function headerFault(header: readonly string[]): string | undefined {
  const names = header.map((name) => name.trim().toLowerCase());
  const missing = PEOPLE_COLUMNS.filter((column) => !names.includes(column));
  if (missing.length === 0) return undefined;
  return `the first line must name the columns ${PEOPLE_COLUMNS.join(', ')}; missing: ${missing.join(', ')}`;
}

/**
 * Sorts the rows of a people file into good and bad, each bad one with its line and reason. Accounts and mail addresses
 * come out in lower case (`identity`); an account may stand once.
 * @param header a header for which `headerFault` is undefined
 */
export function readPeople(header: readonly string[], rows: readonly FileRow[]): PeopleRead {
  const names = header.map((name) => name.trim().toLowerCase());
  const seen = new Map<string, number>();
  const good: (PersonRow & { line: number })[] = [];
  const bad: { line: number; reason: string }[] = [];
  for (const row of rows) {
    const person = personOf(names, row.cells);
    const reason = rowFault(names, row.cells, person) ?? twice(seen, person);
    if (reason !== undefined) {
      bad.push({ line: row.line, reason });
      continue;
    }
    seen.set(person.account, row.line);
    good.push({ line: row.line, ...person });
  }
  return { good, bad };
}

function personOf(names: readonly string[], cells: readonly string[]): PersonRow {
  const cell = (column: string): string => (cells[names.indexOf(column)] ?? '').trim();
  return {
    account: identity(cell('account')),
    given: cell('given'),
    family: cell('family'),
    mail: identity(cell('mail')),
  };
}

function rowFault(names: readonly string[], cells: readonly string[], person: PersonRow): string | undefined {
  if (cells.length !== names.length) return `has ${cells.length} cells, the header has ${names.length}`;
  const unplain = cells.map((cell) => unplainness(cell.trim())).find((fault) => fault !== undefined);
  if (unplain !== undefined) return unplain;
  if (person.account === '') return 'has no account';
  if (!/^[a-z0-9][a-z0-9._-]{0,63}$/.test(person.account))
    return `account "${person.account}" may hold letters, digits, dot, hyphen and underscore, at most 64`;
  if (person.given === '' && person.family === '') return 'has no name';
  if (person.given.length > 80 || person.family.length > 80) return 'has a name longer than 80 characters';
  const formula = [person.given, person.family, person.mail].find((cell) => /^[=+\-@\t\r]/.test(cell));
  if (formula !== undefined)
    return `"${formula}" begins like a formula, which a spreadsheet would reckon when it is exported`;
  if (person.mail.length > 254 || !/^[^\s@]+@[^\s@.]+(?:\.[^\s@.]+)+$/.test(person.mail))
    return `"${person.mail}" is not a mail address`;
  return undefined;
}

function twice(seen: ReadonlyMap<string, number>, person: PersonRow): string | undefined {
  const line = seen.get(person.account);
  return line === undefined ? undefined : `account "${person.account}" stands on line ${line} already`;
}
