import sql, { empty, join, raw, type Sql } from 'sql-template-tag';
import { findable } from '../../core/text';

/* Statements whose parts vary are put together of parts that carry their values, never of text. */

export { empty, join, raw, sql, type Sql };

/** Conditions that must all hold; those that are left out are undefined. */
export const all = (conditions: readonly (Sql | undefined)[]): Sql =>
  join(
    conditions.filter((one) => one !== undefined),
    ' AND ',
  );

/** `LIMIT 100`: MariaDB takes no parameter of a prepared statement there. */
export const atMost = (rows: number): Sql => raw(`LIMIT ${Math.floor(rows)}`);

/** As long as a column of what is looked for may be. */
const MOST_BYTES = 1_400;

/** Texts as a column of what is looked for keeps them. One letter may become many (NFKD): the end is cut off then. */
export const findBytes = (...texts: readonly string[]): Buffer =>
  Buffer.from(findable(...texts)).subarray(0, MOST_BYTES);

/** Whether a text that is kept as `findable` writes it holds each word that is looked for; undefined: none is. */
export function holds(column: Sql, find = ''): Sql | undefined {
  const words = findable(find)
    .split(/\s+/)
    .filter((word) => word !== '');
  return words.length === 0 ? undefined : all(words.map((word) => sql`INSTR(${column}, ${word}) > 0`));
}
