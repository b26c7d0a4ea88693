import type { Hold } from '../../contract';
import type { Kept, Takes } from '../../core/planning';
import { systemScope, within, type CustomerScope, type Scope } from '../access';
import type { App } from '../app';
import { sql, type Connection } from '../db';
import { notFound } from '../problem';
import { write, type Tx } from '../write';
import { askedForm, takesForm, type HeldAsked } from './form';

/** A proposal as it is held. */
export interface StoredHold {
  readonly id: string;
  readonly kind: string;
  readonly environment: string | null;
  readonly title: string;
  readonly asked: HeldAsked;
  readonly fingerprint: string;
  readonly actor: string;
  readonly actorId: string;
  /** Why a lead who did not ask for it has to begin it; null: whoever may begin the change may. */
  readonly waits: string | null;
  readonly reason: string;
  readonly madeAt: number;
  readonly until: number;
}

interface Row extends Omit<StoredHold, 'asked'> {
  readonly asked: string;
}

const HOLD = `SELECT id, kind, environment_id AS environment, title, asked, fingerprint, actor, actor_id AS actorId,
  waits, reason, made_at AS madeAt,
  until_at AS until FROM held_proposal`;

const readRow = (row: Row): StoredHold => ({ ...row, asked: askedForm.read(row.asked) });

/** What is held for a customer, the first to end first. */
export const holdsOf = async (
  db: Connection,
  { customer }: CustomerScope,
  now: number,
): Promise<StoredHold[]> =>
  (
    await db.rows<Row>(`${HOLD} WHERE customer_id = ? AND until_at > ? ORDER BY until_at, id LIMIT 200`, [
      customer.id,
      now,
    ])
  ).map(readRow);

/** @throws Problem 404, also when its time is over */
export async function getHold(
  db: Connection,
  { customer }: CustomerScope,
  id: string,
  now: number,
): Promise<StoredHold> {
  const row = await db.row<Row>(`${HOLD} WHERE customer_id = ? AND id = ? AND until_at > ?`, [
    customer.id,
    id,
    now,
  ]);
  if (!row) throw notFound('hold');
  return readRow(row);
}

/** What waits for a lead's word, of the customers in reach, the first to end first. */
export async function awaitedHolds(
  db: Connection,
  scope: Scope | CustomerScope,
  now: number,
): Promise<(StoredHold & { readonly customer: string })[]> {
  const rows = await db.rows<Row & { readonly customer: string }>(
    sql`SELECT h.id, h.kind, h.environment_id AS environment, h.title, h.asked, h.fingerprint, h.actor, h.actor_id AS actorId,
        h.waits, h.reason, h.made_at AS madeAt, h.until_at AS until, c.code AS customer
        FROM held_proposal h JOIN customer c ON c.id = h.customer_id
        WHERE h.waits IS NOT NULL AND h.until_at > ${now} AND ${within(scope, 'h.customer_id')}
        ORDER BY h.until_at, h.id LIMIT 200`,
  );
  return rows.map((row) => ({ ...readRow(row), customer: row.customer }));
}

/** Who held a proposal; undefined: it is not held any more. */
export async function heldBy(
  db: Connection,
  { customer }: CustomerScope,
  id: string,
): Promise<string | undefined> {
  const row = await db.row<{ actor_id: string }>(
    'SELECT actor_id FROM held_proposal WHERE customer_id = ? AND id = ?',
    [customer.id, id],
  );
  return row?.actor_id;
}

/** Whether a held proposal was held for somebody's approval. */
export async function isToApprove(db: Connection, { customer }: CustomerScope, id: string): Promise<boolean> {
  const row = await db.row(
    'SELECT 1 FROM held_proposal WHERE customer_id = ? AND id = ? AND waits IS NOT NULL',
    [customer.id, id],
  );
  return row !== undefined;
}

/** What is kept at a site for proposals, of all customers, but for one of them. */
export async function keptAt(
  db: Connection,
  { customer }: CustomerScope,
  site: string,
  now: number,
  but: string | undefined,
): Promise<Kept[]> {
  const rows = await db.rows<{ customer_id: string; takes: string }>(
    'SELECT customer_id, takes FROM held_proposal WHERE site_code = ? AND until_at > ? AND id <> ? ORDER BY id',
    [site, now, but ?? ''],
  );
  return rows.map((row) => ({
    own: row.customer_id === customer.id,
    takes: takesForm.read(row.takes),
  }));
}

/** Keeps a proposal with what it takes, in a transaction that holds the customer and the site. */
export async function keepHold(
  tx: Tx,
  scope: CustomerScope,
  hold: StoredHold,
  site: string,
  takes: Takes,
): Promise<void> {
  await tx.write(
    `INSERT INTO held_proposal (customer_id, id, kind, environment_id, site_code, title, asked, fingerprint, takes, actor,
       actor_id, waits, reason, made_at, until_at) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)`,
    [
      scope.customer.id,
      hold.id,
      hold.kind,
      hold.environment,
      site,
      hold.title.slice(0, 160),
      askedForm.write(hold.asked),
      hold.fingerprint,
      takesForm.write(takes),
      hold.actor,
      hold.actorId,
      hold.waits,
      hold.reason,
      hold.madeAt,
      hold.until,
    ],
  );
  await tx.record({
    action: hold.waits === null ? 'hold proposal' : 'ask for approval',
    subject: hold.title.slice(0, 160),
    after: { until: hold.until },
    reason: hold.reason,
    topic: 'run',
    id: hold.id,
  });
}

/** Gives back what was kept; once. @returns whether it was still kept */
export async function dropHold(
  tx: Tx,
  { customer }: CustomerScope,
  id: string,
  why: string,
): Promise<boolean> {
  const row = await tx.row<{ title: string }>(
    'SELECT title FROM held_proposal WHERE customer_id = ? AND id = ?',
    [customer.id, id],
  );
  const gone = await tx.write('DELETE FROM held_proposal WHERE customer_id = ? AND id = ?', [
    customer.id,
    id,
  ]);
  if (gone > 0)
    await tx.record({ action: 'end hold', subject: row?.title ?? '', reason: why, topic: 'run', id });
  return gone > 0;
}

/** Deletes what a customer holds. */
export const forgetHolds = (tx: Connection, { customer }: CustomerScope): Promise<unknown> =>
  tx.write('DELETE FROM held_proposal WHERE customer_id = ?', [customer.id]);

/** Gives back what was kept for longer than was said. */
export async function endHolds(app: App): Promise<void> {
  const over = await app.db.rows<{ customer_id: string; code: string; id: string }>(
    `SELECT h.customer_id, c.code, h.id FROM held_proposal h JOIN customer c ON c.id = h.customer_id
     WHERE h.until_at <= ? ORDER BY h.until_at LIMIT 100`,
    [app.clock.now()],
  );
  for (const { customer_id, code, id } of over) {
    const scope = systemScope({ id: customer_id, code });
    await write(app, scope, [], (tx) => dropHold(tx, scope, id, 'its time is over'));
  }
}

export const holdView = (hold: StoredHold, verb: string): Hold => ({
  id: hold.id,
  kind: hold.kind,
  verb,
  title: hold.title,
  environment: hold.environment,
  actor: hold.actor,
  reason: hold.reason,
  waits: hold.waits,
  madeAt: hold.madeAt,
  until: hold.until,
});
