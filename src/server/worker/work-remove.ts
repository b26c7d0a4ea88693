import type { CustomerScope } from '../access';
import type { App } from '../app';
import { takeTurn, transaction } from '../db';
import { openRefs } from '../metering';
import { ProviderTrouble, type ResourceKind } from '../provider';
import { refOf, type Job, type Place } from './job';
import { ask, done, failed, type Progress, type Work } from './progress';

type RemoveKind =
  | 'warn'
  | 'close'
  | 'unpublish'
  | 'unregister'
  | 'leave'
  | 'remove-host'
  | 'remove-pool'
  | 'remove-share'
  | 'remove-subnet'
  | 'remove-network'
  | 'prove';

/**
 * The provider's name for a thing that is to go: as we noted it, or, when its making was cut off before we could, as
 * the provider's tags tell it.
 */
async function presentRef(
  app: App,
  scope: CustomerScope,
  kind: ResourceKind,
  wantedId: string,
): Promise<string | undefined> {
  const ref = await refOf(app.db, scope, kind, wantedId);
  if (ref === undefined) {
    const all = await app.provider.resources(scope.customer.code);
    return all.find((seen) => seen.kind === kind && seen.tags.wanted === wantedId)?.id;
  }
  const seen = await app.provider.resource(ref);
  return seen && seen.state !== 'gone' ? ref : undefined;
}

const remove =
  (kind: ResourceKind): Work =>
  async (app, job): Promise<Progress> => {
    const ref = await presentRef(app, job.scope, kind, job.wantedId);
    return ref === undefined ? done('not there') : ask(app, job, { do: 'remove', ref });
  };

async function warn(app: App, job: Job, place: Place): Promise<Progress> {
  const people = await app.db.rows<{ mail: string }>(
    `SELECT mail FROM person WHERE customer_id = ? ORDER BY account LIMIT ${Math.floor(place.people)}`,
    [job.scope.customer.id],
  );
  await app.mail.send(job.id, {
    to: people.map((person) => person.mail),
    subject: `Your desktops in ${place.environment} are being taken away`,
    body: `Please save your work and sign out now. The desktops of ${place.environment} close for good.`,
  });
  return done(`${people.length} people were written to`);
}

async function close(app: App, job: Job, place: Place): Promise<Progress> {
  const pool = await presentRef(app, job.scope, 'pool', place.poolId);
  const hosts = (await app.provider.resources(job.scope.customer.code)).filter(
    (seen) => seen.kind === 'host' && seen.tags.pool === place.poolId,
  );
  for (const host of hosts) await app.provider.change(host.id, { accepting: false });
  if (pool !== undefined) await app.provider.endSessions(pool);
  return done('all sessions are closed');
}

async function unpublish(app: App, job: Job, place: Place): Promise<Progress> {
  const pool = await presentRef(app, job.scope, 'pool', place.poolId);
  if (pool === undefined) return done('was not published');
  await app.provider.change(pool, { publish: { items: [], accounts: [], licences: 0 } });
  return done('nothing is published any more');
}

/** Nothing may be left: neither at the provider nor in the directory, and nothing may still be metered. Then names and addresses are given back. */
async function prove(app: App, job: Job, place: Place): Promise<Progress> {
  const left = (await app.provider.resources(job.scope.customer.code)).filter(
    (seen) => seen.tags.environment === place.environmentId,
  );
  if (left.length > 0)
    return failed(`still there: ${left.map((seen) => `${seen.kind} ${seen.name}`).join(', ')}`);
  const names = await app.db.rows<{ name: string }>(
    'SELECT name FROM host WHERE customer_id = ? AND pool_id = ?',
    [job.scope.customer.id, place.poolId],
  );
  const held = new Set((await app.directory.computers(place.realm)).map((name) => name.toUpperCase()));
  const stuck = names.filter(({ name }) => held.has(name.toUpperCase()));
  if (stuck.length > 0) return failed(`still in the directory: ${stuck.map(({ name }) => name).join(', ')}`);
  // The provider's record tells of the end by and by; until it has, something still counts.
  const metered = await openRefs(app.db, job.scope, place.environmentId);
  if (metered.size > 0) throw new ProviderTrouble('the record of changes has not told of the end yet', false);
  await giveBack(app, job, place);
  return done(`nothing is left; ${names.length} names and ${place.subnet} are given back`);
}

/**
 * The network goes with the last environment that uses it. It is given back before it is taken away, so that nobody
 * builds on it meanwhile.
 */
async function removeNetwork(app: App, job: Job, place: Place): Promise<Progress> {
  const id = job.scope.customer.id;
  const stays = await transaction(app.db, async (connection) => {
    await takeTurn(connection, 'customer', { id });
    const others = await connection.row<{ serving: string | null; leaving: string | null }>(
      `SELECT MAX(IF(e.wanted = 'serving', e.name, NULL)) AS serving, MAX(IF(e.wanted = 'retired', e.name, NULL)) AS leaving
       FROM pool p JOIN environment e ON (e.customer_id, e.id) = (p.customer_id, p.environment_id)
       WHERE p.customer_id = ? AND p.network_id = ? AND p.returned_at IS NULL AND e.id <> ?`,
      [id, place.networkId, place.environmentId],
    );
    if (typeof others?.serving === 'string') return others.serving;
    if (typeof others?.leaving === 'string')
      throw new ProviderTrouble(`${others.leaving}, which goes too, still uses it`, false);
    await connection.write(
      'UPDATE network SET returned_at = ? WHERE customer_id = ? AND id = ? AND returned_at IS NULL',
      [app.clock.now(), id, place.networkId],
    );
    return undefined;
  });
  return stays === undefined ? remove('network')(app, job, place) : done(`stays: ${stays} uses it`);
}

async function giveBack(app: App, job: Job, place: Place): Promise<void> {
  const now = app.clock.now();
  const id = job.scope.customer.id;
  await transaction(app.db, async (connection) => {
    await connection.write(
      'UPDATE host SET returned_at = ? WHERE customer_id = ? AND pool_id = ? AND returned_at IS NULL',
      [now, id, place.poolId],
    );
    await connection.write(
      'UPDATE pool SET returned_at = ? WHERE customer_id = ? AND id = ? AND returned_at IS NULL',
      [now, id, place.poolId],
    );
    await connection.write(
      `UPDATE network n SET n.returned_at = ? WHERE n.customer_id = ? AND n.id = ? AND n.returned_at IS NULL
         AND NOT EXISTS (SELECT 1 FROM pool p WHERE p.customer_id = n.customer_id AND p.network_id = n.id
           AND p.returned_at IS NULL)`,
      [now, id, place.networkId],
    );
    await connection.write(
      `UPDATE environment SET retired_at = ?, version = version + 1
       WHERE customer_id = ? AND id = ? AND retired_at IS NULL`,
      [now, id, place.environmentId],
    );
    await connection.write('UPDATE tally SET stale = TRUE WHERE customer_id = ?', [id]);
  });
}

export const removeWork: Readonly<Record<RemoveKind, Work>> = {
  warn,
  close,
  unpublish,
  unregister: async (app, job) => {
    const ref = await presentRef(app, job.scope, 'host', job.wantedId);
    if (ref === undefined) return done('not there');
    await app.provider.change(ref, { pool: null });
    return done('out of its pool');
  },
  leave: async (app, job, place) => {
    await app.directory.leave(place.realm, job.subject);
    return done(`${place.realm} knows it no more`);
  },
  'remove-host': remove('host'),
  'remove-pool': remove('pool'),
  'remove-share': remove('share'),
  'remove-subnet': remove('subnet'),
  'remove-network': removeNetwork,
  prove,
};
