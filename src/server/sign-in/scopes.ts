import { RIGHTS_OF, type Right, type Role } from '../../contract';
import { narrowed } from '../../core/access';
import type { Scope } from '../access';
import type { Connection, Database } from '../db';
import { hashOf } from '../operators';

const OPERATOR = `SELECT o.id, o.name, o.role, o.reach, o.last_seen_at, o.ends_at, o.outside_wall,
  o.factor_sealed IS NOT NULL AS has_factor,
  (SELECT GROUP_CONCAT(c.customer_id) FROM operator_customer c WHERE c.operator_id = o.id) AS customers
  FROM operator o`;

interface OperatorRow {
  readonly id: string;
  readonly name: string;
  readonly role: Role;
  readonly reach: 'every' | 'listed';
  readonly customers: string | null;
  readonly last_seen_at: number | null;
  readonly ends_at: number | null;
  /** When the identity service last said who they are; null: they do not come by it. */
  readonly outside_wall: number | null;
}

/** Whose session a cookie is; undefined when it is nobody's or has ended. */
export async function scopeOfSession(db: Database, token: string, wall: number): Promise<Scope | undefined> {
  const row = await db.row<OperatorRow & { with_factor: number; has_factor: number; required: number }>(
    `SELECT o.*, s.with_factor, o.has_factor, EXISTS (SELECT 1 FROM setting x WHERE x.name = 'second factor required' AND x.value = 'yes') AS required
     FROM (${OPERATOR}) o JOIN web_session s ON s.operator_id = o.id WHERE s.token_hash = ? AND s.expires_at > ?`,
    [hashOf(token), wall],
  );
  if (!row || hasEnded(row, wall)) return undefined;
  await noteSeen(db, row, wall);
  return {
    ...scopeOf(row),
    ...((row.required === 1 || row.has_factor === 1) && row.with_factor === 0 ? { needsFactor: true } : {}),
  };
}

/** Whether someone may come in no more. */
const hasEnded = ({ ends_at }: OperatorRow, wall: number): boolean => ends_at !== null && ends_at <= wall;

/** The identity service says who somebody is when they sign in by it: a token speaks for so long after that. */
const TOLD_MS = 14 * 24 * 3_600_000;
const isForgotten = ({ outside_wall }: OperatorRow, wall: number): boolean =>
  outside_wall !== null && outside_wall <= wall - TOLD_MS;

async function noteSeen(db: Database, { id, last_seen_at }: OperatorRow, wall: number): Promise<void> {
  if ((last_seen_at ?? 0) < wall - NOTED_MS)
    await db.write('UPDATE operator SET last_seen_at = ? WHERE id = ?', [wall, id]);
}

/** A token that is in use is noted so often; not at every request. */
const NOTED_MS = 60_000;

/** Whose API token it is; undefined when it is nobody's or has ended. */
export async function scopeOfToken(db: Database, token: string, wall: number): Promise<Scope | undefined> {
  const row = await db.row<
    OperatorRow & { token: string; last_used_at: number | null; rights: string | null }
  >(
    `SELECT o.*, t.id AS token, t.last_used_at, t.rights FROM (${OPERATOR}) o JOIN api_token t ON t.operator_id = o.id
     WHERE t.token_hash = ? AND t.expires_at > ?`,
    [hashOf(token), wall],
  );
  if (!row || hasEnded(row, wall) || isForgotten(row, wall)) return undefined;
  await noteSeen(db, row, wall);
  if ((row.last_used_at ?? 0) < wall - NOTED_MS)
    await db.write('UPDATE api_token SET last_used_at = ? WHERE id = ?', [wall, row.token]);
  if (row.rights === null) return { ...scopeOf(row), token: row.token };
  const rights = narrowed(RIGHTS_OF[row.role], row.rights.split(','));
  return { ...scopeOf(row, rights), token: row.token, isNarrowed: true };
}

/** What an operator may do now, for what they asked for before; undefined: they are none any more. */
export async function scopeOfOperator(db: Connection, id: string, wall: number): Promise<Scope | undefined> {
  const row = await db.row<OperatorRow>(`${OPERATOR} WHERE o.id = ?`, [id]);
  return row && !hasEnded(row, wall) ? scopeOf(row) : undefined;
}

/** The scope of whoever has this mail address: for the loader and the tests. */
export async function scopeOfMail(db: Database, mail: string): Promise<Scope | undefined> {
  const row = await db.row<OperatorRow>(`${OPERATOR} WHERE o.mail = ?`, [mail]);
  return row && scopeOf(row);
}

const scopeOf = (row: OperatorRow, rights: readonly Right[] = RIGHTS_OF[row.role]): Scope => ({
  actor: { id: row.id, name: row.name, role: row.role, rights },
  customers:
    row.reach === 'every' ? undefined : new Set((row.customers ?? '').split(',').filter((id) => id !== '')),
});
