import type { ParentPart, ParentRun, ParentWithParts } from '../../contract';
import type { RunState } from '../../core/runs';
import { within, type CustomerScope, type Scope } from '../access';
import { all, atMost, join, sql, type Connection, type Sql } from '../db';
import { notFound } from '../problem';
import { policyForm } from './form';

interface Row extends Omit<ParentRun, 'whole'> {
  readonly policy: string;
  readonly whole: number;
}

/** SQL: whether all parts of a parent run are in reach. */
const isWhole = (scope: Scope | CustomerScope): Sql =>
  sql`NOT EXISTS (SELECT 1 FROM parent_part p WHERE p.parent_id = r.id AND NOT ${within(scope, 'p.customer_id')})`;

/**
 * Only parts in reach are counted and told. Why it was begun may name any of its customers: it is told to those alone who
 * reach them all.
 */
function parents(scope: Scope | CustomerScope, where: Sql, end: Sql): Sql {
  const own = sql`FROM parent_part p WHERE p.parent_id = r.id AND ${within(scope, 'p.customer_id')}`;
  const whole = isWhole(scope);
  return sql`SELECT r.id, r.kind, r.title, r.state, r.cause, r.policy, (SELECT COUNT(*) ${own}) AS parts,
      (SELECT COUNT(*) ${own} AND p.state = 'done') AS done, (SELECT COUNT(*) ${own} AND p.state = 'failed') AS failed,
      ${whole} AS whole, IF(${whole}, r.reason, '') AS reason, r.actor, r.begun_at AS begunAt, r.ended_at AS endedAt, r.version
    FROM parent_run r WHERE EXISTS (SELECT 1 ${own}) AND ${where} ${end}`;
}

const readRow = ({ policy: _policy, ...row }: Row): ParentRun => ({ ...row, whole: row.whole === 1 });

export interface ParentPage {
  readonly after?: string | undefined;
  readonly find?: string | undefined;
  readonly limit: number;
}

/** Parent runs of which some part is in reach, newest first. */
export async function listParents(
  db: Connection,
  scope: Scope | CustomerScope,
  { after, find = '', limit }: ParentPage,
): Promise<ParentRun[]> {
  const where = all([
    sql`TRUE`,
    after === undefined ? undefined : sql`r.id < ${after}`,
    find === '' ? undefined : sql`(INSTR(r.title, ${find}) > 0 OR INSTR(r.actor, ${find}) > 0)`,
  ]);
  const rows = await db.rows<Row>(parents(scope, where, sql`ORDER BY r.id DESC ${atMost(limit)}`));
  return rows.map(readRow);
}

/**
 * Those that have stopped, with the customers whose parts are not done. Only those are told whose parts are all in reach:
 * nobody else can resume them, and what is said of them may name any of their customers.
 */
export async function stoppedParents(
  db: Connection,
  scope: Scope,
): Promise<(Pick<ParentRun, 'id' | 'title' | 'cause' | 'failed'> & { readonly customers: string[] })[]> {
  const where = sql`r.state = 'stopped' AND ${isWhole(scope)}`;
  const rows = await db.rows<Row>(parents(scope, where, sql`ORDER BY r.id DESC LIMIT 50`));
  if (rows.length === 0) return [];
  const codes = await db.rows<{ parent: string; code: string }>(
    sql`SELECT DISTINCT p.parent_id AS parent, c.code FROM parent_part p JOIN customer c ON c.id = p.customer_id
        WHERE p.parent_id IN (${join(rows.map(({ id }) => id))}) AND p.state <> 'done' AND c.kind = 'customer' ORDER BY c.code`,
  );
  return rows.map(({ id, title, cause, failed }) => ({
    id,
    title,
    cause,
    failed,
    customers: codes.flatMap((one) => (one.parent === id ? one.code : [])),
  }));
}

/** One with its parts, as far as they are in reach. @throws Problem 404 */
export async function getParent(db: Connection, scope: Scope, id: string): Promise<ParentWithParts> {
  const row = await db.row<Row>(parents(scope, sql`r.id = ${id}`, sql``));
  if (!row) throw notFound('run');
  const list = await db.rows<ParentPart>(
    sql`SELECT c.code AS customer, p.about, p.state, p.says, p.run_id AS run, p.ended_at AS endedAt
        FROM parent_part p JOIN customer c ON c.id = p.customer_id
        WHERE p.parent_id = ${id} AND ${within(scope, 'p.customer_id')} ORDER BY p.place`,
  );
  return { ...readRow(row), policy: policyForm.read(row.policy), list };
}

/** The newest parent run of a kind that is about the customer alone, and how far it has come; null: there is none. */
export async function newestParent(
  db: Connection,
  { customer }: CustomerScope,
  kind: string,
): Promise<{ run: string; state: RunState; done: number; parts: number } | null> {
  const row = await db.row<{ run: string; state: RunState; done: number; parts: number }>(
    `SELECT r.id AS run, r.state, SUM(p.state = 'done') AS done, COUNT(*) AS parts
     FROM parent_run r JOIN parent_part p ON (p.owner_id, p.parent_id) = (r.customer_id, r.id)
     WHERE r.customer_id = ? AND r.kind = ? GROUP BY r.id, r.state ORDER BY r.id DESC LIMIT 1`,
    [customer.id, kind],
  );
  return row ? { ...row, done: Number(row.done) } : null;
}

/** How many are at work, of whomever. */
export async function parentsAtWork(db: Connection): Promise<number> {
  const row = await db.row<{ n: number }>(
    "SELECT COUNT(*) AS n FROM parent_run WHERE state IN ('running','stopping')",
  );
  return row?.n ?? 0;
}
