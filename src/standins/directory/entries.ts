import {
  GROUP,
  USER,
  ScimRefusal,
  type ScimEntries,
  type ScimKind as Kind,
  type ScimMeta,
  type ScimResource as Resource,
  type ScimSlice as Slice,
} from '../../core/scim';
import type { Store } from '../kit/database';

interface Row {
  readonly id: string;
  readonly resource: string;
  readonly created: number;
  readonly modified: number;
  readonly version: number;
}

const COLUMNS = 'id, resource, created, modified, version';

/** The users and groups of one realm. */
export class Entries implements ScimEntries {
  constructor(
    private readonly store: Store,
    readonly realm: string,
    readonly base: string,
  ) {}

  async count(kind: Kind, slice: Slice): Promise<number> {
    const [where, values] = this.where(kind, slice);
    const row = await this.store.row<{ n: number }>(`SELECT COUNT(*) AS n FROM entry WHERE ${where}`, values);
    return Number(row?.n ?? 0);
  }

  async list(kind: Kind, slice: Slice): Promise<Resource[]> {
    const [where, values] = this.where(kind, slice);
    const limit =
      slice.count === undefined
        ? ''
        : `LIMIT ${Math.floor(slice.count)} OFFSET ${Math.floor(slice.from ?? 0)}`;
    // Which they are stands in the index: those that are passed over are not read.
    const rows = await this.store.rows<Row>(
      `SELECT ${COLUMNS} FROM (SELECT seq FROM entry WHERE ${where} ORDER BY seq ${limit}) AS few
       JOIN entry USING (seq) ORDER BY seq`,
      values,
    );
    return rows.map((row) => this.shown(kind, row));
  }

  /** @throws ScimRefusal 404 */
  async one(kind: Kind, id: string): Promise<Resource> {
    const row = await this.store.row<Row>(
      `SELECT ${COLUMNS} FROM entry WHERE realm = ? AND kind = ? AND id = ?`,
      [this.realm, kind, id],
    );
    if (!row) throw new ScimRefusal(404, `There is no ${kind} ${id}.`);
    return this.shown(kind, row);
  }

  /** Makes it, or changes it when it is otherwise. @throws ScimRefusal 409 when the name of a user is taken */
  async put(kind: Kind, resource: Resource): Promise<Resource> {
    const name = String(resource[kind === 'User' ? 'userName' : 'displayName'] ?? '');
    if (name === '') throw new ScimRefusal(400, 'It has no name.', 'invalidValue');
    if (kind === 'User') {
      const other = await this.store.row<{ id: string }>(
        'SELECT id FROM entry WHERE realm = ? AND kind = ? AND name = ? AND id <> ?',
        [this.realm, kind, name, resource.id],
      );
      if (other) throw new ScimRefusal(409, `There is a user ${name} already.`, 'uniqueness');
    }
    const { meta: _meta, ...kept } = resource;
    const text = JSON.stringify({ ...kept, schemas: kept.schemas ?? [kind === 'User' ? USER : GROUP] });
    const now = Date.now();
    await this.store.write(
      `INSERT INTO entry (realm, kind, id, name, resource, created, modified) VALUES (?, ?, ?, ?, ?, ?, ?)
       ON DUPLICATE KEY UPDATE version = version + (resource <> VALUES(resource)),
         modified = IF(resource <> VALUES(resource), GREATEST(VALUES(modified), modified + 1), modified),
         name = VALUES(name), resource = VALUES(resource)`,
      [this.realm, kind, resource.id, name, text, now, now],
    );
    return this.one(kind, resource.id);
  }

  /** Takes it away, and out of every group it is in. @throws ScimRefusal 404 */
  async remove(kind: Kind, id: string): Promise<void> {
    await this.one(kind, id);
    await this.store.write('DELETE FROM entry WHERE realm = ? AND kind = ? AND id = ?', [
      this.realm,
      kind,
      id,
    ]);
    for (const group of await this.list('Group', {})) {
      const members = Array.isArray(group.members) ? (group.members as { value?: unknown }[]) : [];
      if (members.some(({ value }) => value === id))
        await this.put('Group', { ...group, members: members.filter(({ value }) => value !== id) });
    }
  }

  async ids(kind: Kind): Promise<string[]> {
    const rows = await this.store.rows<{ id: string }>('SELECT id FROM entry WHERE realm = ? AND kind = ?', [
      this.realm,
      kind,
    ]);
    return rows.map(({ id }) => id);
  }

  /** Takes many away at once, without looking who they were members of. */
  async forget(kind: Kind, ids: readonly string[]): Promise<void> {
    for (const id of ids)
      await this.store.write('DELETE FROM entry WHERE realm = ? AND kind = ? AND id = ?', [
        this.realm,
        kind,
        id,
      ]);
  }

  private where(kind: Kind, { since, name }: Slice): [string, (string | number)[]] {
    const values: (string | number)[] = [this.realm, kind];
    if (since !== undefined) values.push(since);
    if (name !== undefined) values.push(name);
    return [
      `realm = ? AND kind = ?${since === undefined ? '' : ' AND modified >= ?'}${name === undefined ? '' : ' AND name = ?'}`,
      values,
    ];
  }

  private shown(kind: Kind, row: Row): Resource {
    const meta: ScimMeta = {
      resourceType: kind,
      created: new Date(row.created).toISOString(),
      lastModified: new Date(row.modified).toISOString(),
      version: `W/"${row.version}"`,
      location: `${this.base}/${kind}s/${row.id}`,
    };
    return { ...(JSON.parse(row.resource) as object), id: row.id, meta };
  }
}
