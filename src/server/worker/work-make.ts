import type { App } from '../app';
import { ProviderTrouble, type ResourceKind, type Seen } from '../provider';
import { refOf, tagsFor, type Job, type Place } from './job';
import { ask, done, failed, type Progress, type Work } from './progress';

type MakeKind =
  'network' | 'subnet' | 'share' | 'pool' | 'host' | 'agent' | 'join' | 'register' | 'publish' | 'health';

/** The provider's name for something an earlier step made. @throws ProviderTrouble, lasting, when it was not made */
async function needed(app: App, job: Job, kind: ResourceKind, wantedId: string): Promise<string> {
  const ref = await refOf(app.db, job.scope, kind, wantedId);
  if (ref === undefined) throw new ProviderTrouble(`its ${kind} was not made`, true);
  return ref;
}

/** Asks for a resource unless it stands already, as a customer's network does for all but its first environment. */
const unlessThere =
  (kind: ResourceKind, begin: Work): Work =>
  async (app, job, place) => {
    const ref = await refOf(app.db, job.scope, kind, job.wantedId);
    const seen = ref === undefined ? undefined : await app.provider.resource(ref);
    return seen && seen.state !== 'gone' ? done('stands already') : begin(app, job, place);
  };

async function makeHost(app: App, job: Job, place: Place): Promise<Progress> {
  const host = await app.db.row<{ name: string; address: string; node: string | null }>(
    'SELECT name, address, node FROM host WHERE customer_id = ? AND id = ?',
    [job.scope.customer.id, job.wantedId],
  );
  if (!host) throw new ProviderTrouble(`${job.subject} is not wanted any more`, true);
  return ask(app, job, {
    do: 'make host',
    site: place.site,
    name: host.name,
    size: place.size,
    image: place.image,
    subnet: await needed(app, job, 'subnet', place.poolId),
    address: host.address,
    diskGiB: place.diskGiB,
    node: host.node,
    tags: tagsFor(job, place),
  });
}

/** Puts the pool's items before its people: so many of the customer's people as the environment is for, by account. */
async function publish(app: App, job: Job, place: Place): Promise<Progress> {
  const people = await app.db.rows<{ account: string }>(
    `SELECT account FROM person WHERE customer_id = ? ORDER BY account LIMIT ${Math.floor(place.people)}`,
    [job.scope.customer.id],
  );
  await app.provider.change(await needed(app, job, 'pool', place.poolId), {
    publish: { items: place.items, accounts: people.map((person) => person.account), licences: place.people },
  });
  return done(`${place.items.join(', ')} for ${people.length} people`);
}

/** Looks at every host of the pool, as the provider shows it now. */
async function checkHealth(app: App, job: Job, place: Place): Promise<Progress> {
  const pool = await needed(app, job, 'pool', place.poolId);
  const hosts = (await app.provider.resources(job.scope.customer.code)).filter(
    (seen) => seen.kind === 'host' && seen.tags.pool === place.poolId,
  );
  const isWell = (seen: Seen): boolean =>
    seen.state === 'on' && seen.agent === 'ready' && seen.joined === place.realm && seen.pool === pool;
  const unwell = hosts.filter((seen) => !isWell(seen));
  if (unwell.length > 0)
    return failed(`not well: ${unwell.map((host) => `${host.name} is ${host.state}`).join(', ')}`);
  return done(`${hosts.length} hosts answer, joined and registered`);
}

export const makeWork: Readonly<Record<MakeKind, Work>> = {
  network: unlessThere('network', (app, job, place) =>
    ask(
      app,
      job,
      {
        do: 'make network',
        site: place.site,
        name: `${job.scope.customer.code} network`,
        cidr: place.networkCidr,
        // A network serves every environment of the customer at its site, so it carries none's tag.
        tags: { customer: job.scope.customer.code, wanted: job.wantedId, run: job.runId, step: job.id },
      },
      // Two runs may want it at the same moment: what they ask for is one thing.
      `${job.wantedId}-${job.round}`,
    ),
  ),
  subnet: unlessThere('subnet', async (app, job, place) =>
    ask(app, job, {
      do: 'make subnet',
      site: place.site,
      name: `${place.environment} ${place.pool}`,
      cidr: place.subnet,
      network: await needed(app, job, 'network', place.networkId),
      tags: tagsFor(job, place),
    }),
  ),
  share: unlessThere('share', (app, job, place) =>
    ask(app, job, {
      do: 'make share',
      site: place.site,
      name: `${place.environment} profiles`,
      gib: place.shareGiB,
      tags: tagsFor(job, place),
    }),
  ),
  pool: unlessThere('pool', (app, job, place) =>
    ask(app, job, {
      do: 'make pool',
      site: place.site,
      name: `${place.environment} ${place.pool}`,
      seats: place.seats,
      arrival: place.arrival,
      tags: tagsFor(job, place),
    }),
  ),
  host: unlessThere('host', makeHost),
  agent: async (app, job) =>
    ask(app, job, { do: 'install agent', ref: await needed(app, job, 'host', job.wantedId) }),
  join: async (app, job, place) => {
    await app.directory.join(place.realm, job.subject);
    return ask(app, job, {
      do: 'join',
      ref: await needed(app, job, 'host', job.wantedId),
      realm: place.realm,
    });
  },
  register: async (app, job, place) => {
    const pool = await needed(app, job, 'pool', place.poolId);
    await app.provider.change(await needed(app, job, 'host', job.wantedId), { pool });
    return done(`in pool ${place.pool}`);
  },
  publish,
  health: checkHealth,
};
