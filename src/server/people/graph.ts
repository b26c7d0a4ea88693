import type { Grantee } from '../../core/facts';
import type { GranteeFacts, GroupFacts, Groups } from '../../core/grants';
import { reached } from '../../core/people';
import type { CustomerScope } from '../access';
import { join, sql, type Connection, type Sql } from '../db';

/** Every group of a customer by our id, with the groups that it is in. */
export async function groupFacts(db: Connection, { customer }: CustomerScope): Promise<Groups> {
  const [groups, edges] = await Promise.all([
    db.rows<{ id: string; name: string; unit: string; in_scope: number }>(
      sql`SELECT id, name, unit, in_scope FROM directory_group WHERE customer_id = ${customer.id} ORDER BY name, id`,
    ),
    db.rows<{ inner_id: string; outer_id: string }>(
      sql`SELECT g.id AS inner_id, m.group_id AS outer_id FROM group_member m
          JOIN directory_group g ON g.customer_id = m.customer_id AND g.directory_id = m.member
          WHERE m.customer_id = ${customer.id} AND m.is_group`,
    ),
  ]);
  const above = new Map<string, string[]>();
  for (const { inner_id, outer_id } of edges) above.set(inner_id, [...(above.get(inner_id) ?? []), outer_id]);
  return new Map(
    groups.map(({ id, name, unit, in_scope }): [string, GroupFacts] => [
      id,
      { name, unit, inScope: Boolean(in_scope), above: above.get(id) ?? [] },
    ]),
  );
}

export interface KnownGrantee extends GranteeFacts {
  readonly account: string;
  readonly given: string;
  readonly family: string;
  readonly mail: string;
  readonly unit: string;
}

/** People with the groups that they are in directly: those of these ids, or everyone of the customer. */
export const granteesOf = async (
  db: Connection,
  scope: CustomerScope,
  ids?: readonly string[],
): Promise<KnownGrantee[]> =>
  ids?.length === 0
    ? []
    : granteesWhere(db, scope, ids === undefined ? sql`TRUE` : sql`p.id IN (${join(ids)})`);

/** Those who are in a group, through others too. @param group our id of it */
export function granteesIn(
  db: Connection,
  scope: CustomerScope,
  groups: Groups,
  group: string,
): Promise<KnownGrantee[]> {
  const inner = new Map<string, string[]>();
  for (const [id, { above }] of groups)
    for (const outer of above) inner.set(outer, [...(inner.get(outer) ?? []), id]);
  const within = [...reached([group], (id) => inner.get(id) ?? []).keys()];
  return granteesWhere(
    db,
    scope,
    sql`p.directory_id IN (SELECT i.member FROM group_member i
        WHERE i.customer_id = ${scope.customer.id} AND NOT i.is_group AND i.group_id IN (${join(within)}))`,
  );
}

async function granteesWhere(db: Connection, scope: CustomerScope, which: Sql): Promise<KnownGrantee[]> {
  const [people, groups] = await Promise.all([
    db.rows<{
      id: string;
      account: string;
      given: string;
      family: string;
      mail: string;
      unit: string;
      left_at: number | null;
    }>(
      sql`SELECT p.id, p.account, p.given, p.family, p.mail, p.unit, p.left_at FROM person p
          WHERE p.customer_id = ${scope.customer.id} AND ${which} ORDER BY p.account, p.id`,
    ),
    directGroups(db, scope, which),
  ]);
  return people.map(({ left_at, ...one }) => ({ ...one, leftAt: left_at, groups: groups.get(one.id) ?? [] }));
}

/** The groups that people are in directly, by their ids; who is in none is left out. */
async function directGroups(
  db: Connection,
  { customer }: CustomerScope,
  which: Sql,
): Promise<Map<string, string[]>> {
  const rows = await db.rows<{ id: string; group_id: string }>(
    sql`SELECT p.id, m.group_id FROM person p
        JOIN group_member m ON m.customer_id = p.customer_id AND m.member = p.directory_id
        WHERE p.customer_id = ${customer.id} AND NOT m.is_group AND ${which}`,
  );
  const groups = new Map<string, string[]>();
  for (const { id, group_id } of rows) {
    const own = groups.get(id);
    if (own) own.push(group_id);
    else groups.set(id, [group_id]);
  }
  return groups;
}

/** Undefined: the customer has nobody of that id. */
export const personById = async (
  db: Connection,
  scope: CustomerScope,
  id: string,
): Promise<KnownGrantee | undefined> => (await granteesOf(db, scope, [id]))[0];

/** Which of some ids are groups and people of the customer who are here, and what they are. */
export async function granteesAmong(
  db: Connection,
  scope: CustomerScope,
  ids: readonly string[],
): Promise<Grantee[]> {
  const groups = await groupFacts(db, scope);
  const people = await granteesOf(db, scope, ids);
  const asked = ids.filter((id) => groups.has(id));
  const counts = asked.length === 0 ? undefined : (await countMembers(db, scope, groups)).all;
  return [
    ...[...new Set(asked)].flatMap((id): Grantee[] => {
      const group = groups.get(id);
      if (!group) return [];
      return [
        {
          id,
          to: 'group',
          name: group.name,
          unit: group.unit,
          inScope: group.inScope,
          people: counts?.get(id) ?? 0,
        },
      ];
    }),
    ...people
      .filter(({ leftAt }) => leftAt === null)
      .map(({ id, given, family, unit }): Grantee => ({
        id,
        to: 'person',
        name: `${given} ${family}`.trim(),
        unit,
        inScope: true,
        people: 1,
      })),
  ];
}

/** How many people are in each group: directly, and through others too. */
export async function countMembers(
  db: Connection,
  scope: CustomerScope,
  groups: Groups,
): Promise<{ readonly direct: ReadonlyMap<string, number>; readonly all: ReadonlyMap<string, number> }> {
  const direct = new Map<string, number>();
  const all = new Map<string, number>();
  const oneMore = (counts: Map<string, number>, ids: Iterable<string>): void => {
    for (const id of ids) counts.set(id, (counts.get(id) ?? 0) + 1);
  };
  for (const own of (await directGroups(db, scope, sql`p.left_at IS NULL`)).values()) {
    oneMore(direct, own);
    oneMore(all, reached(own, (one) => groups.get(one)?.above ?? []).keys());
  }
  return { direct, all };
}
