import type { ParentCause, ParentPolicy, Part, PartState } from '../../core/parent-runs';
import type { RunState } from '../../core/runs';
import type { Connection, Lock } from '../db';
import { policyForm } from './form';

export interface StoredParent {
  readonly id: string;
  /** The tenant that it belongs to. */
  readonly owner: { readonly id: string; readonly code: string };
  readonly kind: string;
  readonly title: string;
  readonly state: RunState;
  readonly cause: ParentCause | null;
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
  /** As its kind stores it. */
  readonly input: string;
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
  const row = await db.row<
    Omit<StoredParent, 'policy' | 'owner'> & {
      readonly policy: string;
      readonly ownerId: string;
      readonly code: string;
    }
  >(
    `SELECT r.id, r.customer_id AS ownerId, c.code, r.kind, r.title, r.state, r.cause, r.policy, r.actor_id AS actorId,
       r.reason, r.version FROM parent_run r JOIN customer c ON c.id = r.customer_id WHERE r.id = ?`,
    [id],
  );
  if (!row) return undefined;
  const { ownerId, code, policy, ...parent } = row;
  return { ...parent, owner: { id: ownerId, code }, policy: policyForm.read(policy) };
}

/** How its parts stand, in their order: all that decides which of them begins, and whether it is done. */
export const statesOf = (db: Connection, id: string): Promise<Part[]> =>
  db.rows<Part>('SELECT state, ended_at AS endedAt FROM parent_part WHERE parent_id = ? ORDER BY place', [
    id,
  ]);

/** Its parts in their order. */
export function partsOf(db: Connection, id: string): Promise<StoredPart[]> {
  return db.rows<StoredPart>(
    `SELECT p.place, p.customer_id AS customerId, c.code AS customer, p.about, p.input, p.state, p.run_id AS run,
       r.state AS runState, p.attempt, p.due_wall AS dueWall, p.ended_at AS endedAt
     FROM parent_part p JOIN customer c ON c.id = p.customer_id
       LEFT JOIN run r ON (r.customer_id, r.id) = (p.customer_id, p.run_id)
     WHERE p.parent_id = ? ORDER BY p.place`,
    [id],
  );
}
