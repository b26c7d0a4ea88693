import type { DirectoryGroup, KnownPerson } from '../../core/people';
import type { CustomerScope } from '../access';
import { sql, type Connection } from '../db';

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
export async function knownPeople(db: Connection, { customer }: CustomerScope): Promise<KnownPerson[]> {
  const rows = await db.rows<PersonStored>(
    sql`SELECT id, account, given, family, mail, directory_id, unit, left_at FROM person
        WHERE customer_id = ${customer.id}`,
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

/** Every group of a customer's directory; of those outside the scope without who is in them. */
export async function knownGroups(db: Connection, { customer }: CustomerScope): Promise<KnownGroup[]> {
  const [groups, members] = await Promise.all([
    db.rows<{ id: string; directory_id: string; name: string; unit: string; in_scope: number }>(
      sql`SELECT id, directory_id, name, unit, in_scope FROM directory_group WHERE customer_id = ${customer.id}
          ORDER BY name, id`,
    ),
    db.rows<{ group_id: string; member: string; is_group: number }>(
      sql`SELECT group_id, member, is_group FROM group_member WHERE customer_id = ${customer.id}`,
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
