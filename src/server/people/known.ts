import type { DirectoryGroup, KnownPerson } from '../../core/people';
import { identity } from '../../core/text';
import type { CustomerScope } from '../access';
import { join, sql, type Connection, type Sql } from '../db';

interface PersonStored {
  readonly id: string;
  readonly account: string;
  readonly given: string;
  readonly family: string;
  readonly mail: string;
  readonly directory_id: string | null;
  readonly unit: string;
  readonly left_at: number | null;
}

/** Everybody of a customer, those who left too. */
export const knownPeople = (db: Connection, scope: CustomerScope): Promise<KnownPerson[]> =>
  knownWhere(db, scope, sql`TRUE`);

/** Those of a customer who have one of these ids in the directory, or one of these accounts here. */
export const knownAmong = async (
  db: Connection,
  scope: CustomerScope,
  ids: readonly string[],
  accounts: readonly string[],
): Promise<KnownPerson[]> => {
  const either = [
    ids.length === 0 ? undefined : sql`directory_id IN (${join(ids)})`,
    accounts.length === 0 ? undefined : sql`held_account IN (${join(accounts.map(identity))})`,
  ].filter((one) => one !== undefined);
  return either.length === 0 ? [] : knownWhere(db, scope, sql`(${join(either, ' OR ')})`);
};

/** How many of a customer are here, and how many of them came from the directory. */
export async function countHere(
  db: Connection,
  { customer }: CustomerScope,
): Promise<{ readonly here: number; readonly fromIt: number }> {
  const row = await db.row<{ here: number; fromIt: number }>(
    sql`SELECT COUNT(*) AS here, COUNT(directory_id) AS fromIt FROM person
        WHERE customer_id = ${customer.id} AND left_at IS NULL`,
  );
  return { here: Number(row?.here ?? 0), fromIt: Number(row?.fromIt ?? 0) };
}

async function knownWhere(db: Connection, { customer }: CustomerScope, which: Sql): Promise<KnownPerson[]> {
  const rows = await db.rows<PersonStored>(
    sql`SELECT id, account, given, family, mail, directory_id, unit, left_at FROM person
        WHERE customer_id = ${customer.id} AND ${which}`,
  );
  return rows.map(({ directory_id, left_at, ...row }) => ({
    ...row,
    directoryId: directory_id,
    leftAt: left_at,
  }));
}

/** A group of the directory as it is known here. */
export interface KnownGroup extends DirectoryGroup {
  /** Our own name for it. */
  readonly ours: string;
  readonly inScope: boolean;
}

/**
 * Groups of a customer's directory; of those outside the scope without who is in them.
 * @param ids the directory's own for them; left out: every group
 */
export async function knownGroups(
  db: Connection,
  { customer }: CustomerScope,
  ids?: readonly string[],
): Promise<KnownGroup[]> {
  if (ids?.length === 0) return [];
  const which = ids === undefined ? sql`TRUE` : sql`g.directory_id IN (${join(ids)})`;
  const [groups, members] = await Promise.all([
    db.rows<{ id: string; directory_id: string; name: string; unit: string; in_scope: number }>(
      sql`SELECT g.id, g.directory_id, g.name, g.unit, g.in_scope FROM directory_group g
          WHERE g.customer_id = ${customer.id} AND ${which} ORDER BY g.name, g.id`,
    ),
    db.rows<{ group_id: string; member: string; is_group: number }>(
      ids === undefined
        ? sql`SELECT group_id, member, is_group FROM group_member WHERE customer_id = ${customer.id}`
        : sql`SELECT m.group_id, m.member, m.is_group FROM directory_group g
              JOIN group_member m ON m.customer_id = g.customer_id AND m.group_id = g.id
              WHERE g.customer_id = ${customer.id} AND ${which}`,
    ),
  ]);
  const people = new Map<string, string[]>();
  const inner = new Map<string, string[]>();
  for (const { group_id, member, is_group } of members) {
    const of = is_group ? inner : people;
    const list = of.get(group_id);
    if (list) list.push(member);
    else of.set(group_id, [member]);
  }
  return groups.map(({ id, directory_id, name, unit, in_scope }) => ({
    id: directory_id,
    ours: id,
    name,
    unit,
    inScope: Boolean(in_scope),
    people: people.get(id) ?? [],
    groups: inner.get(id) ?? [],
  }));
}

export const nameOfPerson = ({ given, family }: Pick<PersonStored, 'given' | 'family'>): string =>
  `${given} ${family}`.trim();
