import { isInside, MSP, type CustomerScope, type Scope, type Sealing, type SealPlace } from '../access';
import type { Clock } from '../clock';
import { takeLocks, transaction, type Connection, type Database, type Lock } from '../db';
import { tell, type Topic } from '../live';
import { Problem } from '../problem';
import { writeTrail } from '../trail';
import { markStale } from './summary';

export { beginSummary, markStale } from './summary';

/** What is told of a change where it is made: its place on the trail, and who has to look again. */
export interface Change {
  /** A verb: what was done. */
  readonly action: string;
  readonly subject: string;
  readonly before?: unknown;
  readonly after?: unknown;
  readonly reason?: string;
  readonly run?: string;
  /** What pages should look at again, and its id. */
  readonly topic: Topic;
  readonly id: string;
}

/** A transaction in which data are changed. */
export interface Tx extends Connection {
  /** Puts a change on the trail, tells the pages that show it, and has the customer's summary taken anew. */
  record(change: Change): Promise<void>;
  /** Only tells the pages and the summary: for what the trail does not hold, like a step that moves on. */
  touch(topic: Topic, id: string): Promise<void>;
  /** The same transaction, inside another customer: what is recorded there is theirs. */
  inside(other: CustomerScope): Tx;
}

export interface WriteHouse {
  readonly db: Database;
  readonly clock: Clock;
  readonly sealing: Sealing;
}

/**
 * The one way in which data are changed: in one transaction that holds the locks, with the trail, the live hints and the
 * staleness of summaries, and with what a repeated request is answered from.
 * @returns what `work` made; kept for a request that is sent again, so it holds ids and no more than it must
 */
export async function write<Made>(
  house: WriteHouse,
  scope: Scope | CustomerScope,
  locks: readonly Lock[],
  work: (tx: Tx) => Promise<Made>,
): Promise<Made> {
  const customer = isInside(scope) ? scope.customer : MSP;
  return transaction(house.db, async (connection) => {
    // Two who replace the same values come one after the other, and the second finds what the first has saved.
    const owner: readonly Lock[] = scope.unchanged ? [{ table: 'customer', key: { id: customer.id } }] : [];
    await takeLocks(connection, [...owner, ...locks]);
    // The same request may have come twice at once: who waited for the other finds here what that made.
    const before = await madeBefore(house, connection, scope);
    if (before) return before.made as Made;
    await scope.unchanged?.(connection);
    const made = await work(txOver(house, connection, scope, customer.id));
    if (scope.request) {
      const text = JSON.stringify(made ?? null);
      kept.set(scope.request, text);
      await connection.write(
        'INSERT INTO idempotency (operator_id, idempotency_key, request_hash, made, created_at) VALUES (?, ?, ?, ?, ?)',
        [
          scope.actor.id,
          scope.request.key,
          scope.request.hashes[0],
          house.sealing.seal(text, answerPlace(scope.actor.id, scope.request.key)),
          house.clock.wall(),
        ],
      );
    }
    return made;
  });
}

const kept = new WeakMap<object, string>();

/** What was kept for a request in this process, as JSON; undefined: nothing. */
export const keptFor = (request: NonNullable<Scope['request']>): string | undefined => kept.get(request);

const answerPlace = (operator: string, key: string): SealPlace => ['answer', operator, key];

/** What the request made when it came before. @throws Problem 422 when its key came with another request */
export async function madeBefore(
  { sealing }: Pick<WriteHouse, 'sealing'>,
  connection: Connection,
  { actor, request }: Pick<Scope, 'actor' | 'request'>,
): Promise<{ readonly made: unknown } | undefined> {
  if (!request) return undefined;
  const row = await connection.row<{ request_hash: string; made: Buffer }>(
    'SELECT request_hash, made FROM idempotency WHERE operator_id = ? AND idempotency_key = ?',
    [actor.id, request.key],
  );
  if (!row) return undefined;
  if (!request.hashes.includes(row.request_hash))
    throw new Problem(422, 'idempotency-key', 'This Idempotency-Key was used for another request.');
  return { made: JSON.parse(sealing.unseal(row.made, answerPlace(actor.id, request.key))) as unknown };
}

function txOver(
  house: WriteHouse,
  connection: Connection,
  scope: Scope | CustomerScope,
  customerId: string,
): Tx {
  const touch = async (topic: Topic, id: string): Promise<void> => {
    if (customerId !== MSP.id) await markStale(connection, [customerId]);
    await tell(connection, customerId, topic, id, house.clock.wall());
  };
  return {
    ...connection,
    touch,
    inside: (other) => txOver(house, connection, other, other.customer.id),
    record: async ({ action, subject, before, after, reason, run, topic, id }) => {
      await writeTrail(connection, {
        customerId,
        at: house.clock.now(),
        actor: scope.actor,
        action,
        subject,
        ...(run === undefined ? {} : { runId: run }),
        before,
        after,
        reason: reason ?? '',
      });
      await touch(topic, id);
    },
  };
}

/** A request is answered again from what it made for so long. */
const KEEP_ANSWERS_MS = 24 * 3_600_000;

export const forgetKept = ({ db, clock }: Pick<WriteHouse, 'db' | 'clock'>): Promise<number> =>
  db.write('DELETE FROM idempotency WHERE created_at < ? LIMIT 5000', [clock.wall() - KEEP_ANSWERS_MS]);

/** Seals what is kept for repeated requests with the key that seals now. @returns how many those were */
export async function sealKeptAnew({ db, sealing }: Pick<WriteHouse, 'db' | 'sealing'>): Promise<number> {
  const rows = await db.rows<{ operator_id: string; idempotency_key: string; made: Buffer }>(
    'SELECT operator_id, idempotency_key, made FROM idempotency',
  );
  let done = 0;
  for (const { operator_id, idempotency_key, made } of rows) {
    const place = answerPlace(operator_id, idempotency_key);
    if (sealing.isSealedNow(made, place)) continue;
    done += await db.write('UPDATE idempotency SET made = ? WHERE operator_id = ? AND idempotency_key = ?', [
      sealing.seal(sealing.unseal(made, place), place),
      operator_id,
      idempotency_key,
    ]);
  }
  return done;
}
