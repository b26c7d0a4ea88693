import { setTimeout as pause } from 'node:timers/promises';
import { systemScope, type CustomerScope } from '../access';
import type { App } from '../app';
import { sql } from '../db';
import { OutsideError } from '../outside';
import type { Still } from '../people';
import { Problem } from '../problem';
import { write } from '../write';
import { ChangedMeanwhile, forgetPages } from './reading';
import { noteState, stored, type Stored } from './stored';
import { Stopped, takeIn } from './take-in';

/** A directory that was taken in once is looked at again so often. */
const REST_MS = 60_000;
/** After trouble, so long. */
const TROUBLE_MS = 30_000;
const MOST_LINKS = 50;
/** So many are read at the same time; who asked comes first. */
const AT_ONCE = 4;
/** So often it is looked whether another is due meanwhile, and for so long. */
const LOOK_MS = 500;
const LOOK_LONG_MS = 60_000;

/**
 * Reads each directory that is due and takes in what changed. One that fails or takes long holds up none of the others:
 * while any is read, those that become due are begun too.
 * @param stop when it tells to, none is begun any more
 */
export async function followDirectories(app: App, stop?: AbortSignal): Promise<void> {
  const inHand = new Map<string, Promise<void>>();
  const failed = new Map<string, unknown>();
  const lookUntil = performance.now() + LOOK_LONG_MS;
  for (;;) {
    const isOver = stop?.aborted === true || performance.now() > lookUntil;
    const due = isOver ? [] : await dueLinks(app);
    for (const { id, code } of due) {
      if (inHand.size === AT_ONCE) break;
      if (inHand.has(id) || failed.has(id)) continue;
      const following = follow(app, systemScope({ id, code }))
        .catch((error: unknown) => {
          if (!(error instanceof Overtaken)) failed.set(id, error);
        })
        .finally(() => inHand.delete(id));
      inHand.set(id, following);
    }
    if (inHand.size === 0) break;
    await Promise.race([...inHand.values(), pause(LOOK_MS, undefined, { ref: false })]);
  }
  // The others were done; what went wrong with one is told, and tried again.
  const [error] = failed.values();
  if (error !== undefined) throw error;
}

const dueLinks = (app: App): Promise<{ id: string; code: string }[]> =>
  app.db.rows(
    sql`SELECT c.id, c.code FROM directory_link d JOIN customer c ON c.id = d.customer_id AND c.state <> 'retired'
        WHERE d.state IN ('asked','reading','taking') AND d.due_wall <= ${app.clock.wall()}
          OR d.state = 'linked' AND d.read_at IS NOT NULL AND d.due_wall <= ${app.clock.wall()}
        ORDER BY d.state = 'asked' DESC, d.due_wall LIMIT ${MOST_LINKS}`,
  );

async function follow(app: App, scope: CustomerScope): Promise<void> {
  const row = await begin(app, scope);
  const rest = (ms: number): Promise<unknown> =>
    app.db.write(
      sql`UPDATE directory_link SET due_wall = ${app.clock.wall() + ms}
          WHERE customer_id = ${scope.customer.id} AND round = ${row.round}`,
    );
  try {
    await takeIn(app, scope, row, stillAt(scope, row.round));
    await rest(REST_MS);
  } catch (error) {
    if (error instanceof Stopped || error instanceof Problem) {
      await stop(app, scope, stillAt(scope, row.round), error);
      return;
    }
    if (!(error instanceof OutsideError)) throw error;
    if (error instanceof ChangedMeanwhile) await forgetPages(app, scope);
    // What was asked for goes on being asked for.
    await noteState(app, scope, row.read_at === null ? 'asked' : 'linked', error.says);
    await rest(TROUBLE_MS);
  }
}

/** Takes the next number: whoever reads it under an earlier one, in a worker that was thought dead, writes nothing more. */
async function begin(app: App, scope: CustomerScope): Promise<Stored> {
  await app.db.write(
    sql`UPDATE directory_link SET round = round + 1 WHERE customer_id = ${scope.customer.id}`,
  );
  return stored(app.db, scope);
}

class Overtaken extends Error {}

const stillAt =
  ({ customer }: CustomerScope, round: number): Still =>
  async (tx) => {
    const row = await tx.row<{ round: number }>(
      sql`SELECT round FROM directory_link WHERE customer_id = ${customer.id} FOR UPDATE`,
    );
    if (row?.round !== round) throw new Overtaken('somebody else reads it by now');
  };

const stop = (app: App, scope: CustomerScope, still: Still, why: Stopped | Problem): Promise<unknown> =>
  write(app, scope, [], async (tx) => {
    await still(tx);
    // What was found before anything was written says so itself; a plan that is passed by then leaves what came before.
    const passed = why instanceof Problem ? why.more.fields?.people : undefined;
    const says = passed === undefined ? why.message : `${passed}. Not everybody was taken in.`;
    const leaving = why instanceof Stopped ? why.leaving : null;
    await tx.write(
      sql`UPDATE directory_link SET state = 'stopped', says = ${says.slice(0, 400)}, leaving = ${leaving}
          WHERE customer_id = ${scope.customer.id}`,
    );
    await tx.record({
      action: 'stop reading directory',
      subject: scope.customer.code,
      after: { why: says },
      topic: 'people',
      id: scope.customer.code,
    });
  });
