import type { ParentPolicy, PartState } from '../../core/parent-runs';
import type { RunState, StopCause } from '../../core/runs';
import type { Connection, Lock } from '../db';

export interface StoredParent {
  readonly id: string;
  readonly owner: string;
  readonly kind: string;
  readonly title: string;
  readonly state: RunState;
  readonly cause: StopCause | null;
  readonly policy: ParentPolicy;
  readonly actorId: string;
  readonly reason: string;
  readonly version: number;
}

export interface StoredPart {
  readonly place: number;
  readonly customerId: string;
  readonly customer: string;
  readonly about: string;
  readonly input: unknown;
  readonly state: PartState;
  readonly run: string | null;
  /** How the run that it began stands; null: it began none. */
  readonly runState: RunState | null;
  readonly attempt: number;
  readonly dueWall: number;
  readonly endedAt: number | null;
}

/** Whoever moves it or its parts holds it. */
export const lockOf = (id: string): Lock => ({ table: 'parent_run', key: { id } });

export async function readParent(db: Connection, id: string): Promise<StoredParent | undefined> {
  const row = await db.row<Omit<StoredParent, 'policy'> & { readonly policy: string }>(
    `SELECT id, customer_id AS owner, kind, title, state, cause, policy, actor_id AS actorId, reason, version
     FROM parent_run WHERE id = ?`,
    [id],
  );
  return row && { ...row, policy: JSON.parse(row.policy) as ParentPolicy };
}

/** Its parts in their order. */
export async function partsOf(db: Connection, id: string): Promise<StoredPart[]> {
  const rows = await db.rows<Omit<StoredPart, 'input'> & { readonly input: string }>(
    `SELECT p.place, p.customer_id AS customerId, c.code AS customer, p.about, p.input, p.state, p.run_id AS run,
       r.state AS runState, p.attempt, p.due_wall AS dueWall, p.ended_at AS endedAt
     FROM parent_part p JOIN customer c ON c.id = p.customer_id
       LEFT JOIN run r ON (r.customer_id, r.id) = (p.customer_id, p.run_id)
     WHERE p.parent_id = ? ORDER BY p.place`,
    [id],
  );
  return rows.map((row) => ({ ...row, input: JSON.parse(row.input) as unknown }));
}
