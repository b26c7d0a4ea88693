import { keptDesktopsOf, keptDisksOf, withoutOwners } from '../../core/desktops';
import { KEPT_DISKS } from '../../core/intent';
import { systemScope, type CustomerScope } from '../access';
import type { App } from '../app';
import { beginByItself } from '../changes';
import { sql, type Connection } from '../db';
import { planFactsOf } from '../plans';
import { followPeople } from './follow';
import { idsOf } from './ids';
import { intentsWhere, newestIntent, rewriteIntents } from '../intents';

/** What nobody has to ask for: desktops follow their people, first sign-ins get one, and what was kept long enough goes. */
export async function keepDesktops(app: App): Promise<void> {
  await followPeople(app);
  await firstSignIns(app);
  await endKept(app);
}

/** Whoever is in on a host that is nobody's yet, where the first to sign in gets it. */
async function firstSignIns(app: App): Promise<void> {
  const rows = await app.db.rows<{
    id: string;
    code: string;
    environment: string;
    host: string;
    pool: string;
    account: string;
    person: string;
  }>(
    `SELECT c.id, c.code, r.environment_id AS environment, r.id AS host, SUBSTRING(JSON_VALUE(r.attributes, '$.pool'), 6) AS pool,
       w.account, w.id AS person
     FROM session s JOIN resource r ON r.customer_id = s.customer_id AND r.provider_code = s.provider_code
       AND r.ref = s.host_ref AND r.kind = 'host' AND r.returned_at IS NULL AND r.wanted
     JOIN customer c ON c.id = s.customer_id AND c.state IN ('active','trial')
     JOIN person w ON w.customer_id = s.customer_id AND w.held_account = s.account
       AND w.account_since <= s.since
     WHERE JSON_VALUE(r.attributes, '$.person') = '' AND r.environment_id IS NOT NULL ORDER BY s.since LIMIT 200`,
  );
  for (const { id, code, environment, account, person, pool, host } of rows) {
    const scope = systemScope({ id, code });
    const intent = await newestIntent(app.db, scope, environment);
    const own = intent?.pools.find(({ role }) => role === pool);
    // Whoever has one there already is not given another, and is not asked about again and again.
    if (own?.assign !== 'first sign-in' || own.hosts.some(({ personId }) => personId === person)) continue;
    const asked = { input: { pool, people: [account], host }, environment };
    await beginByItself(app, scope, 'assign-desktops', asked, 'signed in there first');
  }
}

/** Desktops of those who left, and disks that were put aside, once the days are over that the plan promised. */
async function endKept(app: App): Promise<void> {
  const now = app.clock.now();
  const kept = await intentsWhere(
    app.db,
    sql`e.wanted = 'serving' AND e.holds = 'desktops'
      AND (JSON_EXISTS(i.document, '$.pools[*].hosts[*].leftAt') OR JSON_EXISTS(i.document, ${`$.more."${KEPT_DISKS}"`}))`,
  );
  for (const { customer, environment, intent } of kept) {
    const scope = systemScope(customer);
    const { plan } = await planFactsOf(app.db, scope, now);
    const over = keptDesktopsOf(intent, plan)
      .filter(({ until }) => until <= now)
      .map(({ key }) => key);
    const hosts = await idsOf(app.db, scope, environment, over);
    if (hosts.length > 0)
      await beginByItself(
        app,
        scope,
        'end-desktops',
        { input: { hosts, data: 'wiped', host: 'goes' }, environment },
        'who had them left, and they were kept as long as was promised',
      );
    const disks = keptDisksOf(intent)
      .filter(({ until }) => until <= now)
      .map(({ key }) => key);
    if (disks.length > 0)
      await beginByItself(
        app,
        scope,
        'drop-disks',
        { input: { disks }, environment },
        'they were kept as long as was promised',
      );
  }
}

/** Who had which desktop is said no more in what was wanted. */
export async function forgetOwners(tx: Connection, scope: CustomerScope): Promise<void> {
  await tx.write(
    `UPDATE resource SET attributes = JSON_SET(attributes, '$.person', '', '$.personId', '')
     WHERE customer_id = ? AND JSON_EXISTS(attributes, '$.person')`,
    [scope.customer.id],
  );
  await rewriteIntents(tx, scope, withoutOwners);
}

/** A host or a disk that is somebody's, or nobody's yet. */
export interface OwnedPart {
  readonly environmentId: string;
  readonly pool: string;
  readonly ref: string;
  /** By our id; empty: nobody's yet, or that of nobody who is known. */
  readonly who: string;
}

/** What is one person's where everyone has a desktop of their own: hosts, and the disks that go with them; also what is given back by now. */
export const ownedDesktops = (db: Connection, { customer }: CustomerScope): Promise<OwnedPart[]> =>
  db.rows<OwnedPart>(
    sql`SELECT environment_id AS environmentId, SUBSTRING_INDEX(SUBSTRING_INDEX(resource_key, ':', 2), ':', -1) AS pool, ref,
          COALESCE(JSON_VALUE(attributes, '$.personId'), '') AS who
        FROM resource WHERE customer_id = ${customer.id} AND kind IN ('host', 'personal-disk') AND ref IS NOT NULL
          AND JSON_EXISTS(attributes, '$.person')`,
  );
