import { desktopMoves, type DesktopMove, type PersonNow } from '../../core/desktops';
import { hostKey } from '../../core/resources';
import { systemScope, type CustomerScope } from '../access';
import type { App } from '../app';
import { beginByItself } from '../changes';
import { sql } from '../db';
import { idsOf } from './ids';
import { intentsWhere } from '../intents';
import { noteFollowed } from '../people';

/** Somebody to whom something happened that their desktops follow. */
interface Happened {
  readonly customer_id: string;
  readonly code: string;
  readonly person: string;
  readonly account: string;
  readonly left_at: number | null;
  readonly follows: 'leave' | 'return' | 'rename';
}

const MOST_AT_ONCE = 1_000;

/**
 * Desktops of people's own follow the directory: kept for who left, given back to who returns, and under the new account of
 * who is called otherwise. What could not be begun now is looked at again the next time.
 */
export async function followPeople(app: App): Promise<void> {
  const rows = await app.db.rows<Happened>(
    sql`SELECT p.customer_id, c.code, p.id AS person, p.account, p.left_at, p.follows
        FROM person p JOIN customer c ON c.id = p.customer_id AND c.state IN ('active','trial')
        WHERE p.follows IS NOT NULL ORDER BY p.customer_id, p.id LIMIT ${MOST_AT_ONCE}`,
  );
  const byCustomer = new Map<string, Happened[]>();
  for (const row of rows) byCustomer.set(row.customer_id, [...(byCustomer.get(row.customer_id) ?? []), row]);
  for (const [id, happened] of byCustomer)
    await followIn(app, systemScope({ id, code: happened[0]?.code ?? '' }), happened);
}

async function followIn(app: App, scope: CustomerScope, happened: readonly Happened[]): Promise<void> {
  const { id } = scope.customer;
  const people = new Map(
    happened.map((one): [string, PersonNow] => [
      one.person,
      { account: one.account, left: one.left_at !== null },
    ]),
  );
  const environments = await intentsWhere(
    app.db,
    sql`e.customer_id = ${id} AND e.wanted = 'serving' AND e.holds = 'desktops'
      AND JSON_EXISTS(i.document, '$.pools[*].hosts[*].person')`,
  );
  let isQuiet = true;
  for (const { environment, intent } of environments)
    for (const pool of intent.pools) {
      const moves = desktopMoves(pool, (person) => people.get(person));
      if (moves.length === 0) continue;
      isQuiet = false;
      await carry(app, scope, environment, pool.role, moves);
    }
  // Only when nothing was left to do is it forgotten: what was begun just now shows the next time.
  if (isQuiet) for (const { person, follows } of happened) await noteFollowed(app.db, scope, person, follows);
}

async function carry(
  app: App,
  scope: CustomerScope,
  environment: string,
  role: string,
  moves: readonly DesktopMove[],
): Promise<void> {
  const idsFor = (some: readonly DesktopMove[]): Promise<string[]> =>
    idsOf(
      app.db,
      scope,
      environment,
      some.map(({ slot }) => hostKey(role, slot)),
    );
  for (const [act, kind, reason] of [
    ['keep', 'keep-desktops', 'their people have left the directory'],
    ['give back', 'give-back', 'their people are back in the directory'],
  ] as const) {
    const hosts = await idsFor(moves.filter((one) => one.do === act));
    if (hosts.length > 0) await beginByItself(app, scope, kind, { input: { hosts }, environment }, reason);
  }
  for (const move of moves) {
    if (move.do !== 'rename') continue;
    const [host] = await idsFor([move]);
    const asked = { input: { host, person: move.to, data: 'kept' }, environment };
    if (host !== undefined)
      await beginByItself(app, scope, 'move-desktop', asked, `its person is called ${move.to} now`);
  }
}
