import type { DeskPlace, Started } from '../../contract';
import { grantedTo, ownHost } from '../../core/grants';
import { OWN_DONE, OWN_NOW, ownState } from '../../core/desk';
import { crossesOf, screenOf } from '../../core/items';
import { sessionHost, type ArrivalRule } from '../../core/placement';
import { systemScopeFor, withoutRequest, type DeskScope } from '../access';
import type { App } from '../app';
import { beginByItself, type Begun } from '../changes';
import { sql } from '../db';
import { groupFacts, personById, type KnownGrantee } from '../people';
import { offersOf, type KnownOffer } from '../grants';
import { OutsideError } from '../outside';
import { WHOSE_SESSION } from '../present';
import type { SessionManner } from '../providers';
import { Problem } from '../problem';
import { write } from '../write';
import { hostsForPerson, keyOf, type DeskHost } from './hosts';
import { startSeconds } from './view';

/** Until their session is read, a seat is kept for somebody so long. */
const ARRIVAL_MS = 60_000;
/** So many hosts are tried, where one turns out to be full or closed after all. */
const MOST_TRIES = 4;

const gone = (): Problem =>
  new Problem(403, 'not-yours', 'This is not yours any more. Whoever looks after it can tell why.');

/**
 * Starts an item for whoever is at their desk: on the host where they are in already, else on their own, else where the
 * pool's rule places them. Nobody is placed where there is no free seat, or on a host that is drained or unwell.
 * @throws Problem 403 when it is not theirs, 409 when no seat is free
 */
export async function startItem(app: App, desk: DeskScope, place: DeskPlace): Promise<Started> {
  const person = await personById(app.db, desk, desk.person);
  if (!person) throw gone();
  if (await isOthersIn(app, desk, person))
    throw new Problem(
      409,
      'not-now',
      'Somebody who had your account before you is still signed in with it. Try again once they are signed out.',
    );
  const granted = grantedTo(
    person,
    await groupFacts(app.db, desk),
    await offersOf(app.db, desk),
    app.clock.now(),
  );
  const asked = granted.find(
    ({ offer, item }) =>
      offer.environmentId === place.environmentId && offer.pool === place.pool && item.name === place.item,
  );
  if (!asked) throw gone();
  // An app is the same wherever it runs: where one pool has no room for it, another that publishes it may.
  const others = granted.filter(
    (one) => one !== asked && one.item.kind === 'app' && one.item.name === asked.item.name,
  );
  let why: Problem = gone();
  for (const { offer, item } of asked.item.kind === 'app' ? [asked, ...others] : [asked]) {
    if (!(await hasSeat(app, desk, offer))) continue;
    try {
      return await startAt(app, desk, person, offer, item);
    } catch (error) {
      if (!(error instanceof Problem)) throw error;
      why = error;
    }
  }
  throw why;
}

/** Whether a session under somebody's account began while it was somebody else's: the provider would let them into that. */
async function isOthersIn(
  app: App,
  { customer }: DeskScope,
  { id, account }: KnownGrantee,
): Promise<boolean> {
  const row = await app.db.row(
    sql`SELECT 1 FROM session s LEFT JOIN person p ON ${WHOSE_SESSION}
        WHERE s.customer_id = ${customer.id} AND s.account = ${account} AND (p.id IS NULL OR p.id <> ${id}) LIMIT 1`,
  );
  return row !== undefined;
}

async function startAt(
  app: App,
  desk: DeskScope,
  person: KnownGrantee,
  offer: KnownOffer,
  item: KnownOffer['items'][number],
): Promise<Started> {
  const closed = new Set<string>();
  for (let tries = 0; tries < MOST_TRIES; tries++) {
    const host = await placed(app, desk, offer, person, closed);
    if (!host.isOn && host.status !== 'off') throw unwell();
    if (!host.isOn) return wake(app, desk, offer, host);
    const how = {
      crosses: crossesOf(item, offer.crosses, offer.rules.crosses),
      screen: screenOf(item, offer.rules),
    };
    const opened = await open(app, offer, host, person, item.name, how);
    if (!opened) {
      closed.add(host.id);
      continue;
    }
    return noteStart(app, desk, { pool: offer.pool, item: item.name }, host, {
      state: 'ready',
      says: `${host.name} is ready`,
      seconds: 0,
      connection: {
        format: 'laager-connection',
        version: '1',
        name: `${item.name}, ${offer.environment}`,
        item: item.name,
        kind: item.kind,
        host: host.name,
        account: person.account,
        address: opened.address,
        until: opened.until,
        ...how,
      },
    });
  }
  throw full();
}

const unwell = (): Problem =>
  new Problem(409, 'unwell', 'Your desktop is not well. Whoever looks after it can tell why.');

const full = (): Problem => new Problem(409, 'full', 'Every seat is taken. Try again in a few minutes.');

async function hasSeat(app: App, desk: DeskScope, offer: KnownOffer): Promise<boolean> {
  const row = await app.db.row(
    sql`SELECT 1 AS has FROM licence_seat WHERE customer_id = ${desk.customer.id}
        AND resource_id = ${offer.publication ?? ''} AND person_id = ${desk.person}`,
  );
  return row !== undefined;
}

/** Chooses a host under the pool's lock, and keeps a seat there: two at once never get the same last one. */
async function placed(
  app: App,
  desk: DeskScope,
  offer: KnownOffer,
  person: KnownGrantee,
  closed: ReadonlySet<string>,
): Promise<DeskHost> {
  const { id: customer } = desk.customer;
  const pool = await app.db.row<{ id: string; arrival: ArrivalRule }>(
    sql`SELECT id, JSON_VALUE(attributes, '$.arrival') AS arrival FROM resource WHERE customer_id = ${customer}
        AND environment_id = ${offer.environmentId} AND kind = 'pool' AND resource_key = ${`pool:${offer.pool}`}
        AND returned_at IS NULL`,
  );
  if (!pool) throw full();
  return write(
    app,
    withoutRequest(desk),
    [{ table: 'resource', key: { customer_id: customer, id: pool.id } }],
    async (tx) => {
      const hosts = (await hostsForPerson(app, desk, [offer], tx)).get(keyOf(offer)) ?? [];
      const before = await tx.row<{ host_id: string }>(
        sql`SELECT r.id AS host_id FROM session s JOIN resource r ON r.customer_id = s.customer_id
            AND r.provider_code = s.provider_code AND r.ref = s.host_ref
            JOIN person p ON ${WHOSE_SESSION}
          WHERE s.customer_id = ${customer} AND p.id = ${person.id} AND r.environment_id = ${offer.environmentId}
            AND JSON_VALUE(r.attributes, '$.pool') = ${`pool:${offer.pool}`}
          UNION ALL
          SELECT host_id FROM arrival WHERE customer_id = ${customer} AND pool_id = ${pool.id}
            AND account = ${person.account} AND until_wall > ${app.clock.wall()} LIMIT 1`,
      );
      const known = hosts.find(({ id }) => id === before?.host_id && !closed.has(id));
      if (known?.isOn) return known;
      const own = ownHost(hosts, person.id);
      if (own) return own;
      // Where each is somebody's beforehand, a free one is nobody's who comes.
      const open = offer.isAssigned
        ? []
        : hosts.filter((one) => one.personId === undefined && !closed.has(one.id));
      const chosen = sessionHost(
        open.map((host) => ({
          id: host.id,
          sessions: host.sessions,
          seats: host.seats,
          accepts: host.status === 'serving',
        })),
        pool.arrival,
      );
      const host = open.find(({ id }) => id === chosen?.id);
      if (!host) throw full();
      await tx.write(
        sql`INSERT INTO arrival (customer_id, pool_id, account, host_id, until_wall)
          VALUES (${customer}, ${pool.id}, ${person.account}, ${host.id}, ${app.clock.wall() + ARRIVAL_MS})
          ON DUPLICATE KEY UPDATE host_id = VALUES(host_id), until_wall = VALUES(until_wall)`,
      );
      return host;
    },
  );
}

/** Undefined: there is no seat for them there after all. @throws OutsideError when the provider cannot be asked */
async function open(
  app: App,
  offer: KnownOffer,
  host: DeskHost,
  person: KnownGrantee,
  item: string,
  how: SessionManner,
): Promise<{ readonly address: string; readonly until: number } | undefined> {
  if (host.ref === null) return undefined;
  const { port } = await app.providers.at(offer.site);
  try {
    return await port.openSession(host.ref, person.account, item, how);
  } catch (error) {
    if (error instanceof OutsideError && error.trouble === 'lasting') return undefined;
    throw error;
  }
}

const noteStart = (
  app: App,
  desk: DeskScope,
  place: Pick<DeskPlace, 'pool' | 'item'>,
  host: DeskHost,
  started: Started,
): Promise<Started> =>
  write(app, desk, [], async (tx) => {
    await tx.record({
      action: 'start item',
      subject: place.item,
      after: { host: host.name, pool: place.pool },
      topic: 'environment',
      id: desk.customer.id,
    });
    return started;
  });

/** Has one's own desktop started, by the same change as an engineer would. */
async function wake(app: App, desk: DeskScope, offer: KnownOffer, host: DeskHost): Promise<Started> {
  const seconds = await startSeconds(app, offer.site);
  if (!host.wantedOn) {
    if (!offer.may.includes('start'))
      throw new Problem(409, 'asleep', 'Your desktop is off. Whoever looks after it can start it.');
    await switchOwn(app, withoutRequest(desk), offer, host, 'start');
  }
  const started: Started = {
    state: 'starting',
    says: `${host.name} is starting`,
    seconds,
    connection: null,
  };
  return write(app, desk, [], () => Promise.resolve(started));
}

/** What is done with a desktop of one's own from one's desk, each by the change that an engineer would make. */
const CHANGE_OF = { start: 'power-on', restart: 'restart-hosts', sleep: 'power-off' } as const;
type OwnDeskAct = keyof typeof CHANGE_OF;

/** @throws Problem 409 when it cannot be begun now */
async function switchOwn(
  app: App,
  desk: DeskScope,
  offer: KnownOffer,
  host: DeskHost,
  act: OwnDeskAct,
): Promise<Begun> {
  // Whoever asks for it themselves is not waited for.
  const asked = {
    input: { hosts: [host.id] },
    environment: offer.environmentId,
    ...(act === 'restart' ? { policy: { drainMinutes: 0, message: '' } } : {}),
  };
  const reason = `${desk.actor.name}, from their desk`;
  const begun = await beginByItself(app, systemScopeFor(desk), CHANGE_OF[act], asked, reason);
  if (!begun)
    throw new Problem(409, 'not-now', 'That cannot be done now. Whoever looks after it can tell why.');
  return begun;
}

/**
 * @returns what was begun; null: it is so already
 * @throws Problem 403 when it is not theirs, or they may not
 */
export async function actOnOwn(
  app: App,
  desk: DeskScope,
  hostId: string,
  act: OwnDeskAct,
): Promise<Begun | null> {
  const person = await personById(app.db, desk, desk.person);
  const offers = await offersOf(app.db, desk);
  const hosts = await hostsForPerson(app, desk, offers);
  const offer = offers.find((one) => (hosts.get(keyOf(one)) ?? []).some(({ id }) => id === hostId));
  const host = person && offer && ownHost(hosts.get(keyOf(offer)) ?? [], person.id);
  if (!offer || host?.id !== hostId || !offer.may.includes(act)) throw gone();
  const state = ownState(host);
  if (!OWN_NOW[state].includes(act)) {
    if (OWN_DONE[act].includes(state)) return null;
    throw new Problem(409, 'not-now', 'That cannot be done now. Whoever looks after it can tell why.');
  }
  return switchOwn(app, desk, offer, host, act);
}
