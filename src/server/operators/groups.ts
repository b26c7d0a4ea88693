import type { Role } from '../../contract';
import { standingBy, type GroupRule as Rule } from '../../core/access';
import type { Scope } from '../access';
import { newId, type Connection } from '../db';
import { conflict, Problem } from '../problem';
import { lockSetting } from '../settings';
import { write, type Tx, type WriteHouse } from '../write';
import { isLead, refuseLastLead } from './leads';
import { NOBODYS_PASSWORD } from './password';
import { keepReach, reachFor } from './reach';
import { operatorOf } from './read';

type GroupRule = Rule<Role>;

/** What each group of the identity service gives, in the order in which they are asked. */
export async function listGroupRules(db: Connection): Promise<GroupRule[]> {
  const rows = await db.rows<{
    name: string;
    role: Role;
    customers: string | null;
    reach: 'every' | 'listed';
  }>(
    `SELECT g.name, g.role, g.reach, (SELECT GROUP_CONCAT(c.code ORDER BY c.code) FROM outside_group_customer x
       JOIN customer c ON c.id = x.customer_id WHERE x.group_name = g.name) AS customers
     FROM outside_group g ORDER BY g.place`,
  );
  return rows.map(({ name, role, customers, reach }) => ({
    group: name,
    role,
    customers: reach === 'every' ? null : (customers ?? '').split(',').filter((one) => one !== ''),
  }));
}

/** What groups give concerns every customer: it is read and said by who reaches them all. @throws Problem 403 */
export function refuseListedReach({ customers }: Scope): void {
  if (customers) throw new Problem(403, 'reach', 'This needs a lead who reaches every customer.');
}

/** Says anew what the groups give; who is signed in has it from their next sign-in on. @throws Problem 422 */
export const keepGroupRules = (house: WriteHouse, scope: Scope, rules: readonly GroupRule[]): Promise<void> =>
  write(house, scope, [], async (tx) => {
    refuseListedReach(scope);
    const before = await listGroupRules(tx);
    const doubled = rules.findIndex((one, n) => rules.findIndex((other) => other.group === one.group) !== n);
    if (doubled >= 0)
      throw new Problem(422, 'invalid', 'Some of what was sent cannot be used.', {
        fields: { [`rules.${doubled}.group`]: 'is there twice' },
      });
    await tx.write('DELETE FROM outside_group_customer');
    await tx.write('DELETE FROM outside_group');
    for (const [place, { group, role, customers }] of rules.entries()) {
      const ids = await reachFor(tx, scope, customers);
      await tx.write('INSERT INTO outside_group (name, place, role, reach) VALUES (?, ?, ?, ?)', [
        group,
        place,
        role,
        ids ? 'listed' : 'every',
      ]);
      for (const id of ids ?? [])
        await tx.write('INSERT INTO outside_group_customer (group_name, customer_id) VALUES (?, ?)', [
          group,
          id,
        ]);
    }
    await tx.record({
      action: 'say what groups give',
      subject: `${rules.length} groups`,
      before: { rules: before },
      after: { rules },
      topic: 'ground',
      id: 'groups',
    });
  });

/** Somebody as an identity service tells of them. */
export interface ToldPerson {
  readonly subject: string;
  readonly name: string;
  readonly mail: string;
  readonly groups: readonly string[];
}

export interface OutsideOperator {
  readonly id: string;
  readonly name: string;
  readonly role: Role;
  readonly endsAt: number | null;
}

/**
 * Who somebody is here: taken on where they were not known, and what their groups give now in any case.
 * @returns undefined when their groups give them nothing
 * @throws Problem 409 `last-lead` when nobody would be lead any more, `linked` when their mail is another's already
 */
export const operatorByGroups = (
  house: WriteHouse,
  scope: Scope,
  issuer: string,
  told: ToldPerson,
): Promise<OutsideOperator | undefined> =>
  write(house, scope, [], async (tx) => {
    // Written first, as everyone does who changes what operators are: two at once come one after the other.
    await lockSetting(tx, 'operators changed');
    const standing = standingBy(told.groups, await listGroupRules(tx));
    const found = await operatorTold(tx, issuer, told);
    if (!standing) {
      if (found) await endOutOfGroups(tx, found, house.clock.wall());
      return undefined;
    }
    if (found && isLead(found.role) && !isLead(standing.role))
      await refuseLastLead(tx, found.id, house.clock.wall());
    const id = found?.id ?? newId();
    const before = found && (await operatorOf(tx, id, house.clock.wall())).customers;
    const reach = await reachFor(tx, scope, standing.customers);
    if (found)
      await tx.write(
        'UPDATE operator SET name = ?, role = ?, reach = ?, issuer = ?, subject = ? WHERE id = ?',
        [told.name, standing.role, reach ? 'listed' : 'every', issuer, told.subject, id],
      );
    else
      await tx.write(
        `INSERT INTO operator (id, name, mail, role, reach, password_hash, issuer, subject) VALUES (?, ?, ?, ?, ?, ?, ?, ?)`,
        [
          id,
          told.name,
          told.mail,
          standing.role,
          reach ? 'listed' : 'every',
          NOBODYS_PASSWORD,
          issuer,
          told.subject,
        ],
      );
    await keepReach(tx, id, reach);
    await tx.write('UPDATE operator SET outside_wall = ? WHERE id = ?', [house.clock.wall(), id]);
    const isOtherReach = found && JSON.stringify(before) !== JSON.stringify(standing.customers);
    if (!found || found.role !== standing.role || isOtherReach)
      await tx.record({
        action: found ? 'change operator' : 'take on operator',
        subject: told.name,
        before: found ? { role: found.role, customers: before ?? 'every' } : null,
        after: { role: standing.role, customers: standing.customers ?? 'every', groups: told.groups },
        topic: 'ground',
        id,
      });
    return { id, name: told.name, role: standing.role, endsAt: found?.endsAt ?? null };
  });

/** Who is in none of the groups any more has no way in left: neither sign-ins, nor API tokens, nor a password. */
async function endOutOfGroups(tx: Tx, { id, name }: OutsideOperator, wall: number): Promise<void> {
  const ended =
    (await tx.write('DELETE FROM web_session WHERE operator_id = ?', [id])) +
    (await tx.write('DELETE FROM api_token WHERE operator_id = ?', [id]));
  await tx.write('UPDATE operator SET password_hash = ?, outside_wall = ? WHERE id = ?', [
    NOBODYS_PASSWORD,
    wall,
    id,
  ]);
  await tx.record({
    action: 'end every way in',
    subject: name,
    after: { ended, groups: [] },
    topic: 'ground',
    id,
  });
}

/** By what the service calls them; else by their mail, as long as nobody came under it from there before. */
async function operatorTold(
  tx: Tx,
  issuer: string,
  { subject, mail }: ToldPerson,
): Promise<OutsideOperator | undefined> {
  const columns = 'SELECT id, name, role, ends_at AS endsAt, subject FROM operator';
  const known = await tx.row<OutsideOperator>(`${columns} WHERE issuer = ? AND subject = ?`, [
    issuer,
    subject,
  ]);
  if (known) return known;
  const byMail = await tx.row<OutsideOperator & { subject: string | null }>(`${columns} WHERE mail = ?`, [
    mail,
  ]);
  if (byMail && byMail.subject !== null) throw conflict('linked', 'That mail address is another’s here.');
  return byMail;
}
