import type { DirectoryGroup, DirectoryPerson, DirectoryRead } from '../../core/people';
import type { CustomerScope } from '../access';
import type { App } from '../app';
import { sql } from '../db';
import type { Asked, DirectoryPage, DirectoryReader } from '../directory';
import { OutsideError } from '../outside';
import type { Totals } from './compared';
import { noteState } from './stored';

/** A directory as it was read whole. */
export interface WholeRead extends DirectoryRead {
  /** What changes in it from then on is asked for the next time. */
  readonly since: string | undefined;
}

/** What was changed while it was read is read again: its clock shows whole seconds (RFC 9110, section 5.6.7). */
const OVERLAP_MS = 2_000;

export const sinceOf = (at: number | undefined): string | undefined =>
  at === undefined ? undefined : new Date(at - OVERLAP_MS).toISOString();

/** Somebody came or went between two pages, so that one may have been passed over. */
export class ChangedMeanwhile extends OutsideError {
  constructor() {
    super('directory', 'changed while it was read', 'passing');
  }
}

/** Where a part is read from and kept: pages that were read before are not read again. */
export interface Shelf<Entry> {
  before(): Promise<{ readonly entries: readonly Entry[]; readonly total: number | undefined }>;
  keep(page: number, came: DirectoryPage<Entry>): Promise<void>;
}

/** Reads on page by page until all of it is there. @throws ChangedMeanwhile */
export async function readOn<Entry extends { readonly id: string }>(
  read: (asked: Asked) => Promise<DirectoryPage<Entry>>,
  shelf: Shelf<Entry>,
): Promise<Entry[]> {
  const { entries, total: before } = await shelf.before();
  const all = [...entries];
  for (let total = before, page = all.length; total === undefined || all.length < total;) {
    const came = await read({ from: all.length });
    const { entries: more, total: now } = came;
    if (total !== undefined && now !== total) throw new ChangedMeanwhile();
    if (more.length === 0 && all.length < now) throw new ChangedMeanwhile();
    await shelf.keep(page, came);
    all.push(...more);
    total = now;
    page = all.length;
  }
  if (new Set(all.map(({ id }) => id)).size < all.length) throw new ChangedMeanwhile();
  return all;
}

const inMemory = <Entry>(): Shelf<Entry> => ({
  before: async () => ({ entries: [], total: undefined }),
  keep: async () => undefined,
});

/** Reads all of it at once, keeping nothing. @throws OutsideError */
export async function readWhole(reader: DirectoryReader): Promise<DirectoryRead> {
  return {
    people: await readOn((asked) => reader.people(asked), inMemory<DirectoryPerson>()),
    groups: await readOn((asked) => reader.groups(asked), inMemory<DirectoryGroup>()),
  };
}

/** Pages that are older are not gone on with: what they say may have changed. */
const PAGES_LAST_MS = 15 * 60_000;

/** Reads all of it, keeping what has come, so that another process can go on where this one ended. @throws OutsideError */
export async function readKeeping(
  app: App,
  scope: CustomerScope,
  reader: DirectoryReader,
): Promise<WholeRead> {
  const { id: customer } = scope.customer;
  let at: number | undefined;
  const kept = <Entry>(part: 'people' | 'groups'): Shelf<Entry> => {
    let come = 0;
    return {
      before: async () => {
        const rows = await app.db.rows<{ total: number; entries: string; directory_at: number | null }>(
          sql`SELECT total, entries, directory_at FROM directory_page
              WHERE customer_id = ${customer} AND part = ${part} ORDER BY page`,
        );
        if (part === 'people') at = rows[0]?.directory_at ?? undefined;
        const entries = rows.flatMap((row) => JSON.parse(row.entries) as Entry[]);
        come = entries.length;
        return { entries, total: rows.at(-1)?.total };
      },
      keep: async (page, { entries, total, at: clock }) => {
        come += entries.length;
        if (part === 'people') at ??= clock;
        await app.db.write(
          sql`REPLACE INTO directory_page (customer_id, part, page, total, read_wall, directory_at, entries)
              VALUES (${customer}, ${part}, ${page}, ${total}, ${app.clock.wall()}, ${clock ?? null},
                ${JSON.stringify(entries)})`,
        );
        await noteState(app, scope, 'reading', `${come} of ${total} ${part} read`);
      },
    };
  };
  await app.db.write(
    sql`DELETE FROM directory_page WHERE customer_id = ${customer} AND EXISTS (SELECT 1 FROM (SELECT read_wall
        FROM directory_page WHERE customer_id = ${customer}) AS old WHERE old.read_wall < ${app.clock.wall() - PAGES_LAST_MS})`,
  );
  const people = await readOn((asked) => reader.people(asked), kept<DirectoryPerson>('people'));
  const groups = await readOn((asked) => reader.groups(asked), kept<DirectoryGroup>('groups'));
  return { people, groups, since: sinceOf(at) };
}

export const forgetPages = async (app: App, { customer }: CustomerScope): Promise<void> =>
  void (await app.db.write('DELETE FROM directory_page WHERE customer_id = ?', [customer.id]));

/** What a directory told of: who and which groups came or changed. Who is gone it does not tell. */
export interface Told extends DirectoryRead {
  readonly since: string | undefined;
  /** How many are in it; undefined: some came or went while that was asked. */
  readonly totals: Totals | undefined;
}

/** All that was changed since. @throws OutsideError */
export async function readTold(reader: DirectoryReader, since: string): Promise<Told> {
  let at: number | undefined;
  const before = await totalsOf(reader);
  const people = await readOn(async (asked) => {
    const page = await reader.people({ ...asked, since });
    at ??= page.at;
    return page;
  }, inMemory<DirectoryPerson>());
  const groups = await readOn((asked) => reader.groups({ ...asked, since }), inMemory<DirectoryGroup>());
  const after = await totalsOf(reader);
  const isSame = before.people === after.people && before.groups === after.groups;
  return { people, groups, since: sinceOf(at), totals: isSame ? after : undefined };
}

const totalsOf = async (reader: DirectoryReader): Promise<Totals> => ({
  people: await reader.total('people'),
  groups: await reader.total('groups'),
});

/** Everyone's ids. @throws OutsideError */
export const readIds = async (reader: DirectoryReader, of: 'people' | 'groups'): Promise<Set<string>> =>
  new Set(
    (
      await readOn(async ({ from }) => {
        const page = await reader.ids(of, { from });
        return { ...page, entries: page.entries.map((id) => ({ id })) };
      }, inMemory<{ readonly id: string }>())
    ).map(({ id }) => id),
  );
