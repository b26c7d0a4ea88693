import type { Role } from '../../contract';
import type { Scope } from '../access';
import type { Database } from '../db';
import { hashOf } from './hash';

const OPERATOR = `SELECT o.id, o.name, o.role, o.reach,
  (SELECT GROUP_CONCAT(c.customer_id) FROM operator_customer c WHERE c.operator_id = o.id) AS customers
  FROM operator o`;

interface OperatorRow {
  readonly id: string;
  readonly name: string;
  readonly role: Role;
  readonly reach: 'every' | 'listed';
  readonly customers: string | null;
}

/** Whose session a cookie is; undefined when it is nobody's or has ended. */
export async function scopeOfSession(db: Database, token: string, wall: number): Promise<Scope | undefined> {
  const row = await db.row<OperatorRow>(
    `${OPERATOR} JOIN web_session s ON s.operator_id = o.id WHERE s.token_hash = ? AND s.expires_at > ?`,
    [hashOf(token), wall],
  );
  return row && scopeOf(row);
}

/** Whose API token it is; undefined when it is nobody's or has ended. */
export async function scopeOfToken(db: Database, token: string, wall: number): Promise<Scope | undefined> {
  const row = await db.row<OperatorRow>(
    `${OPERATOR} JOIN api_token t ON t.operator_id = o.id WHERE t.token_hash = ? AND t.expires_at > ?`,
    [hashOf(token), wall],
  );
  return row && scopeOf(row);
}

/** The scope of whoever has this mail address: for the loader and the tests. */
export async function scopeOfMail(db: Database, mail: string): Promise<Scope | undefined> {
  const row = await db.row<OperatorRow>(`${OPERATOR} WHERE o.mail = ?`, [mail]);
  return row && scopeOf(row);
}

const scopeOf = (row: OperatorRow): Scope => ({
  actor: { id: row.id, name: row.name, role: row.role },
  customers:
    row.reach === 'every' ? undefined : new Set((row.customers ?? '').split(',').filter((id) => id !== '')),
});
