import type { DirectoryGroup, DirectoryPerson } from '../../core/people';
import {
  GROUP,
  ScimRefusal,
  USER,
  type ScimEntries,
  type ScimGroup,
  type ScimKind,
  type ScimMeta,
  type ScimResource,
  type ScimSlice,
  type ScimUser,
} from '../../core/scim';
import { identity } from '../../core/text';
import type { CustomerScope } from '../access';
import type { App } from '../app';
import { all, atMost, sql, type Connection, type Sql } from '../db';
import {
  groupOfScim,
  personOfScim,
  scimGroup,
  scimUser,
  type Asked,
  type DirectoryReader,
} from '../directory';

interface Row {
  readonly id: string;
  readonly body: string;
  readonly version: number;
  readonly created_wall: number;
  readonly changed_wall: number;
}

const ID = /^[0-9A-Z]{26}$/;

/** So many users and groups are kept of one customer. */
const MOST_ENTRIES = 200_000;
/** And so much of each, in characters. */
const MOST_CHARACTERS = 2_000_000;

/** What a customer's directory has pushed to us: theirs alone. */
export class PushedEntries implements ScimEntries {
  readonly base: string;

  constructor(
    private readonly app: Pick<App, 'db' | 'clock'>,
    private readonly scope: CustomerScope,
    private readonly db: Connection = app.db,
  ) {
    this.base = `/scim/v2/${scope.customer.code}`;
  }

  async count(kind: ScimKind, slice: ScimSlice): Promise<number> {
    const row = await this.db.row<{ n: number }>(
      sql`SELECT COUNT(*) AS n FROM pushed_entry WHERE ${this.where(kind, slice)}`,
    );
    return row?.n ?? 0;
  }

  async list(kind: ScimKind, slice: ScimSlice): Promise<ScimResource[]> {
    const { from = 0, count = MOST_ENTRIES } = slice;
    const rows = await this.db.rows<Row>(
      sql`SELECT id, body, version, created_wall, changed_wall FROM pushed_entry WHERE ${this.where(kind, slice)}
          ORDER BY id ${atMost(count)} OFFSET ${from}`,
    );
    return rows.map((row) => this.shown(kind, row));
  }

  async one(kind: ScimKind, id: string): Promise<ScimResource> {
    // What cannot be an id of ours is nobody's.
    const row = !ID.test(id)
      ? undefined
      : await this.db.row<Row>(
          sql`SELECT id, body, version, created_wall, changed_wall FROM pushed_entry
          WHERE ${this.where(kind, {})} AND id = ${id}`,
        );
    if (!row) throw new ScimRefusal(404, `There is no ${kind} of that id.`);
    return this.shown(kind, row);
  }

  async put(kind: ScimKind, { meta: _meta, ...kept }: ScimResource): Promise<ScimResource> {
    const resource: ScimResource = { ...kept, schemas: kept.schemas ?? [kind === 'User' ? USER : GROUP] };
    const { error } = (kind === 'User' ? scimUser : scimGroup).validate(resource);
    if (error) throw new ScimRefusal(400, error.message, 'invalidValue');
    const name = identity(String(resource[kind === 'User' ? 'userName' : 'displayName']).trim());
    if (name === '' || name.length > 250)
      throw new ScimRefusal(400, 'It has no name, or one of more than 250 characters.', 'invalidValue');
    const body = JSON.stringify(resource);
    if (body.length > MOST_CHARACTERS) throw new ScimRefusal(413, 'That is too much of one.');
    if (kind === 'User') {
      const other = await this.db.row(
        sql`SELECT 1 FROM pushed_entry WHERE ${this.where(kind, { name })} AND id <> ${resource.id}`,
      );
      if (other) throw new ScimRefusal(409, 'There is a user of that name already.', 'uniqueness');
    }
    const isKnown = await this.db.row(
      sql`SELECT 1 FROM pushed_entry WHERE ${this.where(kind, {})} AND id = ${resource.id}`,
    );
    if (!isKnown && (await this.count(kind, {})) >= MOST_ENTRIES)
      throw new ScimRefusal(413, 'Those are too many.');
    const wall = this.app.clock.wall();
    await this.db.write(
      sql`INSERT INTO pushed_entry (customer_id, kind, id, name, body, created_wall, changed_wall)
          VALUES (${this.scope.customer.id}, ${kind}, ${resource.id}, ${name}, ${body}, ${wall}, ${wall})
          ON DUPLICATE KEY UPDATE version = version + (body <> VALUES(body)),
            changed_wall = IF(body <> VALUES(body), VALUES(changed_wall), changed_wall),
            name = VALUES(name), body = VALUES(body)`,
    );
    return this.one(kind, resource.id);
  }

  async remove(kind: ScimKind, id: string): Promise<void> {
    await this.one(kind, id);
    await this.db.write(sql`DELETE FROM pushed_entry WHERE ${this.where(kind, {})} AND id = ${id}`);
    const groups = await this.db.rows<Row>(
      sql`SELECT id, body, version, created_wall, changed_wall FROM pushed_entry
          WHERE ${this.where('Group', {})} AND JSON_SEARCH(body, 'one', ${id}, NULL, '$.members[*].value') IS NOT NULL`,
    );
    for (const row of groups) {
      const group = this.shown('Group', row);
      const members = Array.isArray(group.members) ? (group.members as { value?: unknown }[]) : [];
      await this.put('Group', { ...group, members: members.filter(({ value }) => value !== id) });
    }
  }

  private where(kind: ScimKind, { since, name }: ScimSlice): Sql {
    return all([
      sql`customer_id = ${this.scope.customer.id} AND kind = ${kind}`,
      since === undefined ? undefined : sql`changed_wall >= ${since}`,
      name === undefined ? undefined : sql`name = ${identity(name)}`,
    ]);
  }

  private shown(kind: ScimKind, row: Row): ScimResource {
    const meta: ScimMeta = {
      resourceType: kind,
      created: new Date(row.created_wall).toISOString(),
      lastModified: new Date(row.changed_wall).toISOString(),
      version: `W/"${row.version}"`,
      location: `${this.base}/${kind}s/${row.id}`,
    };
    return { ...(JSON.parse(row.body) as object), id: row.id, meta };
  }
}

const PAGE = 1_000;

/** What was pushed, read as any directory is: with what is done about leavers, names and scopes. */
export function pushedReader(app: Pick<App, 'db' | 'clock'>, scope: CustomerScope): DirectoryReader {
  const entries = new PushedEntries(app, scope);
  const page = async <Entry>(
    kind: ScimKind,
    { from, since }: Asked,
    read: (resource: ScimResource) => Entry,
  ): Promise<{ entries: Entry[]; total: number; at: number }> => {
    const at = app.clock.wall();
    const slice = { since: since === undefined ? undefined : Date.parse(since) };
    const [total, found] = await Promise.all([
      entries.count(kind, slice),
      entries.list(kind, { ...slice, from, count: PAGE }),
    ]);
    return { entries: found.map(read), total, at };
  };
  // What is kept was looked at when it came.
  const person = (one: ScimResource): DirectoryPerson => personOfScim(one as unknown as ScimUser);
  const grouping = (one: ScimResource): DirectoryGroup => groupOfScim(one as unknown as ScimGroup);
  return {
    people: (asked) => page('User', asked, person),
    groups: (asked) => page('Group', asked, grouping),
    ids: (of, asked) => page(of === 'people' ? 'User' : 'Group', asked, ({ id }) => id),
    total: (of) => entries.count(of === 'people' ? 'User' : 'Group', {}),
    person: async (id) => {
      try {
        return person(await entries.one('User', id));
      } catch (error) {
        if (error instanceof ScimRefusal && error.status === 404) return undefined;
        throw error;
      }
    },
  };
}
