import { setImmediate as breathe } from 'node:timers/promises';
import { Readable } from 'node:stream';
import { CsvError, parse } from 'csv-parse';
import type { FileRow } from '../core/people';
import { Problem } from './problem';

export const MOST_ROWS = 20_000;
const MOST_CELLS = 20;
/** Of one record with all its cells. */
const MOST_CHARACTERS = 4_000;
/** Read so much of a file at a time; then others have their turn. */
const CHUNK = 32_000;

interface Parsed {
  readonly record: readonly string[];
  readonly raw: string;
}

/**
 * The rows of a CSV file (RFC 4180), each with the line that it begins on; a record may hold line breaks within quotes.
 * Read bit by bit, and no further than it may be long.
 * @throws Problem 422 when it is no CSV, or has more rows or columns than anyone's people
 */
export async function readRows(file: string): Promise<FileRow[]> {
  const rows: FileRow[] = [];
  let line = 1;
  try {
    for await (const { record, raw } of records(file)) {
      if (record.length > MOST_CELLS) throw unreadable(`line ${line} has more than ${MOST_CELLS} columns`);
      if (record.length > 1 || record[0] !== '') rows.push({ line, cells: record });
      if (rows.length > MOST_ROWS + 1) throw unreadable(`it has more than ${MOST_ROWS} rows`);
      line += raw.trimEnd().split('\n').length;
    }
  } catch (error) {
    if (!(error instanceof CsvError)) throw error;
    throw unreadable(
      error.code === 'CSV_MAX_RECORD_SIZE'
        ? `line ${line} is longer than ${MOST_CHARACTERS} characters`
        : error.message,
    );
  }
  return rows;
}

const records = (file: string): AsyncIterable<Parsed> =>
  Readable.from(chunksOf(file), { objectMode: false }).pipe(
    parse({
      bom: true,
      raw: true,
      info: true,
      relax_column_count: true,
      max_record_size: MOST_CHARACTERS,
    }),
  );

async function* chunksOf(file: string): AsyncGenerator<string> {
  for (let at = 0; at < file.length; at += CHUNK) {
    yield file.slice(at, at + CHUNK);
    await breathe();
  }
}

export const unreadable = (why: string): Problem =>
  new Problem(422, 'file', `The file cannot be read: ${why}.`, { fields: { file: why } });
