import type { Change, Comparison, DirectoryGroup, DirectoryPerson, KnownPerson } from '../../core/people';
import { limitsPassed } from '../../core/plans';
import type { CustomerScope } from '../access';
import type { App } from '../app';
import { findBytes, insertMany, join, newId, sql, type Connection } from '../db';
import { notePeople, refuseGone } from '../customers';
import { peopleOf, planFactsOf } from '../plans';
import { renameSessions } from '../present';
import { Problem } from '../problem';
import { write, type Tx } from '../write';
import type { KnownGroup } from './known';

/** So many are written in one transaction: what was written before a process died is not written again. */
const AT_ONCE = 2_000;

const COLUMNS = [
  'customer_id',
  'id',
  'account',
  'given',
  'family',
  'mail',
  'directory_id',
  'unit',
  'find_text',
] as const;

/** Whether what is taken in is still to be, asked in each transaction. It throws when it is not. */
export type Still = (tx: Connection) => Promise<void>;

/** Under the customer's lock: what else counts their people or asks for their plan waits. */
const lockedWhile =
  (app: App, scope: CustomerScope, still: Still) =>
  <Made>(work: (tx: Tx) => Promise<Made>): Promise<Made> =>
    write(app, scope, [{ table: 'customer', key: { id: scope.customer.id } }], async (tx) => {
      await refuseGone(tx, scope);
      await still(tx);
      const made = await work(tx);
      // With each part, so that what goes by it is looked at again though the rest should never come.
      await notePeople(tx, scope);
      return made;
    });

/** More people than the plan allows are not taken in. Under the customer's lock: two at once count together. */
export async function refuseBeyondPlan(
  tx: Connection,
  scope: CustomerScope,
  before: number,
  now: number,
): Promise<void> {
  const { plan, takes } = await planFactsOf(tx, scope, now);
  const passed = limitsPassed(takes, plan, now).find(({ limit }) => limit === 'people');
  if (passed && takes.people > before)
    throw new Problem(422, 'plan', `${passed.says}. Nothing was taken in.`, {
      fields: { people: passed.says },
    });
}

/**
 * Makes the people those of the directory: first those go who left, so that their accounts are free, then the others are
 * changed, and new ones come last. Done again after it broke off, it does what was left.
 * @throws Problem 422 `plan`
 */
export async function takePeople(
  app: App,
  scope: CustomerScope,
  comparison: Comparison,
  still: Still,
): Promise<void> {
  const locked = lockedWhile(app, scope, still);
  const { left, changed, returned, added } = comparison;
  const now = app.clock.now();
  for (const some of chunked(left)) await locked((tx) => leave(tx, scope, some, now));
  const renamed = changed.filter(
    ({ known, now: to }) => known.account.toLowerCase() !== to.account.toLowerCase(),
  );
  for (const some of chunked(renamed)) await locked((tx) => freeAccounts(tx, scope, some));
  for (const some of chunked([...changed, ...returned]))
    await locked(async (tx) => {
      const before = await peopleOf(tx, scope);
      await change(tx, scope, some);
      await noteAccounts(
        tx,
        scope,
        some.flatMap(({ known, now: to }) =>
          known.leftAt !== null || known.account !== to.account ? [known.id] : [],
        ),
        now,
      );
      await refuseBeyondPlan(tx, scope, before, now);
    });
  for (const some of chunked(added))
    await locked(async (tx) => {
      const before = await peopleOf(tx, scope);
      const rows = some.map((one) => ({ id: newId(), one }));
      await insertMany(
        tx,
        'person',
        COLUMNS,
        rows.map(({ id, one }) => rowOf(scope, id, one)),
      );
      await noteAccounts(
        tx,
        scope,
        rows.map(({ id }) => id),
        now,
      );
      await refuseBeyondPlan(tx, scope, before, now);
    });
  if (changed.length + returned.length + added.length > 0)
    await locked((tx) => renameSessions(tx, scope.customer.id));
}

/**
 * Since when people have their accounts, where others had them before: what was done under them until then stays those
 * others'. It counts from now for whoever is named.
 */
export async function noteAccounts(
  tx: Connection,
  { customer }: CustomerScope,
  ids: readonly string[],
  now: number,
): Promise<void> {
  for (const some of chunked(ids)) {
    // Without statistics of what was written just now the database would read all people for each.
    const had = await tx.rows<{ id: string }>(
      sql`SELECT n.id FROM person n WHERE n.customer_id = ${customer.id} AND n.id IN (${join(some)}) AND (
            EXISTS (SELECT 1 FROM person o FORCE INDEX (by_account)
              WHERE o.customer_id = n.customer_id AND o.account = n.account AND o.id <> n.id)
            OR EXISTS (SELECT 1 FROM person o FORCE INDEX (by_former)
              WHERE o.customer_id = n.customer_id AND o.former = n.account AND o.id <> n.id))`,
    );
    await tx.write(
      sql`UPDATE person SET account_since = 0 WHERE customer_id = ${customer.id} AND id IN (${join(some)})
          AND account_since <> 0`,
    );
    if (had.length > 0)
      await tx.write(
        sql`UPDATE person SET account_since = ${now} WHERE customer_id = ${customer.id}
            AND id IN (${join(had.map(({ id }) => id))})`,
      );
  }
}

const leave = (
  tx: Connection,
  { customer }: CustomerScope,
  people: readonly KnownPerson[],
  at: number,
): Promise<number> =>
  tx.write(
    sql`UPDATE person SET left_at = ${at}, find_text = '', follows = 'leave' WHERE customer_id = ${customer.id} AND left_at IS NULL
        AND id IN (${join(people.map(({ id }) => id))})`,
  );

/** Two may have changed accounts with each other: until both have the new ones, they have none that anybody could have. */
const freeAccounts = (
  tx: Connection,
  { customer }: CustomerScope,
  people: readonly Change[],
): Promise<number> =>
  tx.write(
    sql`UPDATE person SET follows = 'rename',
        former = IF(account LIKE '~%', former, account), account = CONCAT('~', id) WHERE customer_id = ${customer.id}
        AND id IN (${join(people.map(({ known }) => known.id))})`,
  );

const change = (tx: Connection, scope: CustomerScope, people: readonly Change[]): Promise<void> =>
  insertMany(
    tx,
    'person',
    COLUMNS,
    people.map(({ known, now }) => rowOf(scope, known.id, now)),
    `ON DUPLICATE KEY UPDATE account = VALUES(account), given = VALUES(given), family = VALUES(family),
       mail = VALUES(mail), directory_id = VALUES(directory_id), unit = VALUES(unit), find_text = VALUES(find_text),
       follows = IF(left_at IS NULL, follows, 'return'), left_at = NULL`,
  );

const rowOf = ({ customer }: CustomerScope, id: string, one: DirectoryPerson): (string | Buffer)[] => [
  customer.id,
  id,
  one.account,
  one.given,
  one.family,
  one.mail,
  one.id,
  one.unit,
  findBytes(one.account, one.given, one.family, one.mail),
];

/** A group as it is to be known. */
export interface GroupNow {
  readonly group: DirectoryGroup;
  readonly inScope: boolean;
}

/** Makes groups those of the directory. @param gone ids of ours */
export async function takeGroups(
  app: App,
  scope: CustomerScope,
  still: Still,
  known: readonly KnownGroup[],
  now: readonly GroupNow[],
  gone: readonly string[],
): Promise<number> {
  const locked = lockedWhile(app, scope, still);
  const before = new Map(known.map((one) => [one.id, one]));
  const otherwise = now.filter(({ group, inScope }) => !isSame(before.get(group.id), group, inScope));
  const { id: customer } = scope.customer;
  for (const some of chunked(gone))
    await locked((tx) =>
      tx.write(sql`DELETE FROM directory_group WHERE customer_id = ${customer} AND id IN (${join(some)})`),
    );
  for (const some of chunkedByMembers(otherwise))
    await locked(async (tx) => {
      const rows = some.map(({ group, inScope }) => ({
        id: before.get(group.id)?.ours ?? newId(),
        group,
        inScope,
      }));
      await insertMany(
        tx,
        'directory_group',
        ['customer_id', 'id', 'directory_id', 'name', 'unit', 'in_scope'],
        rows.map(({ id, group, inScope }) => [customer, id, group.id, group.name, group.unit, inScope]),
        'ON DUPLICATE KEY UPDATE name = VALUES(name), unit = VALUES(unit), in_scope = VALUES(in_scope)',
      );
      await tx.write(
        sql`DELETE FROM group_member WHERE customer_id = ${customer} AND group_id IN (${join(rows.map(({ id }) => id))})`,
      );
      await insertMany(
        tx,
        'group_member',
        ['customer_id', 'group_id', 'member', 'is_group'],
        rows.flatMap(({ id, group }) => [
          ...[...new Set(group.people)].map((one) => [customer, id, one, false]),
          ...[...new Set(group.groups)].map((one) => [customer, id, one, true]),
        ]),
      );
    });
  return otherwise.length + gone.length;
}

function isSame(known: KnownGroup | undefined, now: DirectoryGroup, inScope: boolean): boolean {
  if (!known) return false;
  // Of which nothing was told is what is known, itself.
  if (known === now && known.inScope === inScope) return true;
  const sameMembers = (a: readonly string[], b: readonly string[]): boolean => {
    const there = new Set(a);
    return there.size === new Set(b).size && b.every((one) => there.has(one));
  };
  return (
    known.name === now.name &&
    known.unit === now.unit &&
    known.inScope === inScope &&
    sameMembers(known.people, now.people) &&
    sameMembers(known.groups, now.groups)
  );
}

function* chunked<One>(all: readonly One[]): Generator<readonly One[]> {
  for (let at = 0; at < all.length; at += AT_ONCE) yield all.slice(at, at + AT_ONCE);
}

/** Groups together as long as they have no more members than are written at once; a larger one by itself. */
function* chunkedByMembers(groups: readonly GroupNow[]): Generator<readonly GroupNow[]> {
  let some: GroupNow[] = [];
  let members = 0;
  for (const one of groups) {
    const own = one.group.people.length + one.group.groups.length + 1;
    if (some.length > 0 && members + own > AT_ONCE) {
      yield some;
      [some, members] = [[], 0];
    }
    some.push(one);
    members += own;
  }
  if (some.length > 0) yield some;
}

/** Deletes a customer's people and groups. @returns how many people those were */
export async function forgetPeople(tx: Connection, { customer }: CustomerScope): Promise<number> {
  await tx.write('DELETE FROM group_member WHERE customer_id = ?', [customer.id]);
  await tx.write('DELETE FROM directory_group WHERE customer_id = ?', [customer.id]);
  return tx.write('DELETE FROM person WHERE customer_id = ?', [customer.id]);
}

/** What happened to a person's desktop was followed: it is not told again, unless something else has happened since. */
export const noteFollowed = (
  db: Connection,
  { customer }: CustomerScope,
  person: string,
  followed: string,
): Promise<number> =>
  db.write(
    sql`UPDATE person SET follows = NULL WHERE customer_id = ${customer.id} AND id = ${person} AND follows = ${followed}`,
  );
