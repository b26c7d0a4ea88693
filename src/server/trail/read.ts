import type { Recent, TrailEntry } from '../../contract';
import { isInside, MSP, within, type CustomerScope, type Scope } from '../access';
import { all, atMost, sql, type Database, type Sql } from '../db';
import { notFound } from '../problem';

type Stored = Omit<TrailEntry, 'before' | 'after' | 'isLong'> & {
  readonly before: string | null;
  readonly after: string | null;
  readonly isLong: number;
};

/** Of a large environment, what was before and after is all its hosts: from so many bytes on a list leaves it out. */
const LONG = sql`IFNULL(LENGTH(t.before_state), 0) + IFNULL(LENGTH(t.after_state), 0) > 1000`;

/**
 * The trail, newest first: of one customer when inside it, otherwise of all in reach. What is the MSP's own is
 * shown to those who reach every customer, and to whoever did it.
 * @param page `after` is the id of the last entry of the page before
 */
export async function listTrail(
  db: Database,
  scope: Scope | CustomerScope,
  page: { readonly after?: string | undefined; readonly limit: number; readonly find?: string | undefined },
): Promise<TrailEntry[]> {
  const { after, find = '' } = page;
  const where = all([
    shownTo(scope),
    after === undefined ? undefined : sql`t.id < ${after}`,
    find === ''
      ? undefined
      : sql`(INSTR(t.subject, ${find}) > 0 OR INSTR(t.action, ${find}) > 0 OR INSTR(t.actor, ${find}) > 0)`,
  ]);
  return entriesWhere(db, where, page.limit, LONG);
}

/** An account as a word of its own: not as a part of another's. */
const named = (account: string): string =>
  `(^|[^A-Za-z0-9._-])${account.replaceAll(/[.+*?^$()[\]{}|\\]/g, '\\$&')}($|[^A-Za-z0-9._-])`;

/** So much of what concerns somebody or something is told on their page. */
const MOST_RECENT = 8;

/** What was done lately by one of a customer's people, or names them. */
export const trailOfPerson = (
  db: Database,
  scope: CustomerScope,
  person: { readonly id: string; readonly account: string; readonly name: string },
): Promise<Recent[]> =>
  recentWhere(
    db,
    sql`${shownTo(scope)} AND (t.actor_id = ${person.id} OR t.subject RLIKE ${named(person.account)}
      OR t.subject = ${person.name})`,
  );

/** What was done lately with something of a customer's that has this name. */
export const trailOfName = (db: Database, scope: CustomerScope, name: string): Promise<Recent[]> =>
  recentWhere(db, sql`${shownTo(scope)} AND t.subject RLIKE ${named(name)}`);

async function recentWhere(db: Database, where: Sql): Promise<Recent[]> {
  const entries = await entriesWhere(db, where, MOST_RECENT, LONG);
  return entries.map(({ id, at, actor, action, subject, run }) => ({ id, at, actor, action, subject, run }));
}

/** One entry in whole. @throws Problem 404 for one that is not shown to who asks */
export async function readTrailEntry(
  db: Database,
  scope: Scope | CustomerScope,
  entry: string,
): Promise<TrailEntry> {
  const [found] = await entriesWhere(db, sql`${shownTo(scope)} AND t.id = ${entry}`, 1, sql`FALSE`);
  if (!found) throw notFound('entry of the trail');
  return found;
}

/** @param isLong which of them come without what was before and after */
async function entriesWhere(db: Database, where: Sql, limit: number, isLong: Sql): Promise<TrailEntry[]> {
  const rows = await db.rows<Stored>(
    sql`SELECT t.id, t.at, IF(c.kind = 'msp', NULL, c.code) AS customer, t.actor, t.actor_role AS role, t.action, t.subject, t.run_id AS run,
            IF(${isLong}, NULL, t.before_state) AS \`before\`, IF(${isLong}, NULL, t.after_state) AS \`after\`, t.reason, ${isLong} AS isLong
     FROM trail t JOIN customer c ON c.id = t.customer_id WHERE ${where} ORDER BY t.id DESC ${atMost(limit)}`,
  );
  return rows.map((row) => ({
    ...row,
    before: parsed(row.before),
    after: parsed(row.after),
    isLong: row.isLong === 1,
  }));
}

const shownTo = (scope: Scope | CustomerScope): Sql =>
  isInside(scope) || !scope.customers
    ? within(scope, 't.customer_id')
    : sql`((t.customer_id = ${MSP.id} AND t.actor_id = ${scope.actor.id}) OR ${within(scope, 't.customer_id')})`;

const parsed = (json: string | null): unknown => (json === null ? null : (JSON.parse(json) as unknown));
