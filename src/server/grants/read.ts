import type {
  Group,
  Item,
  KeptOut,
  Member,
  Offered,
  PersonDetail,
  Session,
  WhyLinkTold,
} from '../../contract';
import {
  grantedTo,
  missingLink,
  whyOf,
  type Granted,
  type Groups,
  type HostFacts,
  type Link,
  type WhyFacts,
} from '../../core/grants';
import type { Grant } from '../../core/intent';
import { crossesOf, screenOf } from '../../core/items';
import { reached, wayTo, type DirectoryScope } from '../../core/people';
import { DateTime } from 'luxon';
import type { CustomerScope } from '../access';
import type { App } from '../app';
import { sql, type Connection } from '../db';
import { directoryLink } from '../directory-link';
import { listHosts } from '../environments';
import {
  countHere,
  countMembers,
  granteesIn,
  granteesOf,
  groupFacts,
  personById,
  type KnownGrantee,
  nameOfPerson,
} from '../people';
import { notFound } from '../problem';
import { listSessions, pastSessions } from '../sessions';
import { trailOfPerson } from '../trail';
import { offersOf, type KnownOffer } from './offers';

/** What is known of a customer for telling who sees what. */
export interface Known {
  readonly groups: Groups;
  readonly offers: readonly KnownOffer[];
  readonly scope: DirectoryScope;
  /** Who has a licence seat of which publication. */
  readonly seats: ReadonlyMap<string, ReadonlySet<string>>;
  readonly zone: string;
}

export async function knownOf(app: App, scope: CustomerScope): Promise<Known> {
  const { db } = app;
  const [groups, offers, link, seats, customer] = await Promise.all([
    groupFacts(db, scope),
    offersOf(db, scope),
    directoryLink(db, scope),
    db.rows<{ resource_id: string; person_id: string }>(
      sql`SELECT resource_id, person_id FROM licence_seat WHERE customer_id = ${scope.customer.id}`,
    ),
    db.row<{ zone: string }>(sql`SELECT zone FROM customer WHERE id = ${scope.customer.id}`),
  ]);
  const bySeat = new Map<string, Set<string>>();
  for (const { resource_id, person_id } of seats) {
    const own = bySeat.get(resource_id);
    if (own) own.add(person_id);
    else bySeat.set(resource_id, new Set([person_id]));
  }
  return {
    groups,
    offers,
    scope: link,
    seats: bySeat,
    zone: customer?.zone ?? 'UTC',
  };
}

/** An item as it is for a customer's people, in the end. */
export const itemOf = (offer: KnownOffer, item: KnownOffer['items'][number]): Item => ({
  environmentId: offer.environmentId,
  environment: offer.environment,
  site: offer.site,
  pool: offer.pool,
  name: item.name,
  kind: item.kind,
  folder: item.folder ?? '',
  hidden: item.hidden === true,
  icon: item.icon ?? null,
  crosses: crossesOf(item, offer.crosses, offer.rules.crosses),
  screen: screenOf(item, offer.rules),
});

const namesOf = (groups: Groups, ids: readonly string[]): string[] =>
  ids.map((id) => groups.get(id)?.name ?? '');

/** Every group of the customer's directory. */
export async function listGroups(
  app: App,
  scope: CustomerScope,
): Promise<{ entries: Group[]; units: readonly string[] }> {
  const known = await knownOf(app, scope);
  const { direct, all } = await countMembers(app.db, scope, known.groups);
  const grants = known.offers.flatMap((offer) => offer.grants.filter(({ to }) => to === 'group'));
  return {
    units: known.scope.units,
    entries: [...known.groups].map(([id, group]) => ({
      id,
      name: group.name,
      unit: group.unit,
      inScope: group.inScope,
      direct: direct.get(id) ?? 0,
      people: all.get(id) ?? 0,
      within: namesOf(known.groups, group.above),
      grants: grants.filter((one) => one.id === id).length,
    })),
  };
}

/** Those in a group, with the groups by which they are. */
async function membersOf(
  db: Connection,
  scope: CustomerScope,
  groups: Groups,
  group: string,
): Promise<{ readonly person: KnownGrantee; readonly way: readonly string[] }[]> {
  if (!groups.has(group)) throw notFound('group');
  return (await granteesIn(db, scope, groups, group)).flatMap((person) => {
    if (person.leftAt !== null) return [];
    const own = reached(person.groups, (id) => groups.get(id)?.above ?? []);
    return own.has(group) ? [{ person, way: wayTo(own, group) }] : [];
  });
}

/** @throws Problem 404 */
export async function listMembers(app: App, scope: CustomerScope, group: string): Promise<Member[]> {
  const groups = await groupFacts(app.db, scope);
  return (await membersOf(app.db, scope, groups, group)).map(({ person, way }) => ({
    id: person.id,
    account: person.account,
    name: nameOfPerson(person),
    unit: person.unit,
    way: namesOf(groups, way),
  }));
}

/** A host with our id of it. */
interface KnownHost extends HostFacts {
  readonly id: string;
}

/** Reads the hosts of environments, each once. */
function hostsOf(app: App, scope: CustomerScope): (offer: KnownOffer) => Promise<KnownHost[]> {
  const read = new Map<string, ReturnType<typeof listHosts>>();
  return async ({ environmentId, pool }) => {
    const hosts = read.get(environmentId) ?? listHosts(app.db, scope, environmentId, { limit: 10_000 });
    read.set(environmentId, hosts);
    return (await hosts)
      .filter((one) => one.pool === pool)
      .map(({ id, name, status, sessions, seats, person, personId, kept }) => ({
        id,
        name,
        status,
        sessions,
        seats,
        ...((person ?? '') === '' ? {} : { personId: personId ?? '' }),
        kept,
      }));
  };
}

export function whyFacts(
  app: App,
  known: Known,
  offer: KnownOffer,
  item: string,
  person: KnownGrantee,
  hosts: readonly HostFacts[],
): WhyFacts {
  const seats = known.seats.get(offer.publication ?? '') ?? new Set();
  return {
    at: app.clock.now(),
    person,
    groups: known.groups,
    scope: known.scope,
    offer,
    item,
    isPersonal: offer.isPersonal,
    isAssigned: offer.isAssigned,
    licence: { has: seats.has(person.id), seats: offer.licences, taken: seats.size },
    hosts,
    written: (at) => DateTime.fromMillis(at, { zone: known.zone }).toFormat('d LLLL yyyy'),
  };
}

const told = ({ mend, ...link }: Link): WhyLinkTold => ({ ...link, mend: mend ?? null });

/** One person in whole. @throws Problem 404 */
export async function personDetail(app: App, scope: CustomerScope, id: string): Promise<PersonDetail> {
  const person = await personById(app.db, scope, id);
  if (!person) throw notFound('person');
  const known = await knownOf(app, scope);
  const own = reached(person.groups, (one) => known.groups.get(one)?.above ?? []);
  const items = grantedTo(person, known.groups, known.offers, app.clock.now());
  const hosts = hostsOf(app, scope);
  const sessions = await sessionsOf(app.db, scope, person);
  const has = new Set(items.map(({ offer, item }) => keyOf(offer, item.name)));
  return {
    id: person.id,
    account: person.account,
    given: person.given,
    family: person.family,
    mail: person.mail,
    unit: person.unit,
    leftAt: person.leftAt,
    groups: [...own.keys()].map((one) => {
      const group = known.groups.get(one);
      return {
        id: one,
        name: group?.name ?? '',
        unit: group?.unit ?? '',
        inScope: group?.inScope ?? false,
        way: namesOf(known.groups, wayTo(own, one)),
      };
    }),
    items: await Promise.all(
      items.map(async ({ offer, item, through }) => {
        const facts = whyFacts(app, known, offer, item.name, person, await hosts(offer));
        const missing = missingLink(whyOf(facts));
        return {
          item: itemOf(offer, item),
          through: throughSays(through, known.groups),
          missing: missing ? told(missing) : null,
        };
      }),
    ),
    others: known.offers.flatMap((offer) =>
      offer.items.filter(({ name }) => !has.has(keyOf(offer, name))).map((item) => itemOf(offer, item)),
    ),
    sessions,
    before: (await pastSessions(app.db, scope, { person: id }, MOST_BEFORE)).map(
      ({ host, since, endedAt }) => ({ host, since, endedAt }),
    ),
    hosts: await hostsNamed(known.offers, hosts, sessions),
    recent: await lately(app, scope, person),
    desktops: await desktopsOf(known.offers, hosts, id),
  };
}

/** So many sessions of before are told. */
const MOST_BEFORE = 8;

const keyOf = ({ environmentId, pool }: KnownOffer, item: string): string =>
  `${environmentId} ${pool} ${item}`;

const throughSays = (
  through: Granted<KnownOffer>['through'],
  groups: Groups,
): { to: Grant['to']; way: string[]; until: number | null }[] =>
  through.map(({ grant: { to, until }, way }) => ({ to, until, way: namesOf(groups, way) }));

async function sessionsOf(
  db: Connection,
  scope: CustomerScope,
  { id, account }: KnownGrantee,
): Promise<Session[]> {
  const found = await listSessions(db, scope, { find: account, limit: 200 });
  return found.filter(({ personId }) => personId === id);
}

const lately = (app: App, scope: CustomerScope, person: KnownGrantee): Promise<PersonDetail['recent']> =>
  trailOfPerson(app.db, scope, { id: person.id, account: person.account, name: nameOfPerson(person) });

/** The hosts that sessions are on. */
async function hostsNamed(
  offers: readonly KnownOffer[],
  hosts: (offer: KnownOffer) => Promise<KnownHost[]>,
  sessions: readonly Session[],
): Promise<PersonDetail['hosts']> {
  const names = new Set(sessions.map(({ host }) => host));
  const all = await Promise.all(offers.map(hosts));
  return all
    .flat()
    .filter(({ name }) => names.has(name))
    .map(({ id, name, status, sessions: taken, seats }) => ({ id, name, status, sessions: taken, seats }));
}

async function desktopsOf(
  offers: readonly KnownOffer[],
  hosts: (offer: KnownOffer) => Promise<KnownHost[]>,
  person: string,
): Promise<PersonDetail['desktops']> {
  const each = await Promise.all(
    offers.map(async (offer) =>
      (await hosts(offer))
        .filter(({ personId }) => personId === person)
        .map(({ id, name, status, sessions }) => ({
          environmentId: offer.environmentId,
          environment: offer.environment,
          pool: offer.pool,
          host: name,
          hostId: id,
          status,
          sessions,
        })),
    ),
  );
  return each.flat();
}

/** Where something is asked about. */
export interface Place {
  readonly environment: string;
  readonly pool: string;
  readonly item: string;
}

function offerAt({ offers }: Known, { environment, pool }: Place): KnownOffer {
  const offer = offers.find((one) => one.environmentId === environment && one.pool === pool);
  if (!offer) throw notFound('pool');
  return offer;
}

/** @throws Problem 404 */
export async function why(app: App, scope: CustomerScope, id: string, place: Place): Promise<WhyLinkTold[]> {
  const person = await personById(app.db, scope, id);
  if (!person) throw notFound('person');
  const known = await knownOf(app, scope);
  const offer = offerAt(known, place);
  const hosts = await hostsOf(app, scope)(offer);
  return whyOf(whyFacts(app, known, offer, place.item, person, hosts)).map(told);
}

/** Who of a group would not get in, and by which link. @throws Problem 404 */
export async function keptOut(app: App, scope: CustomerScope, group: string, place: Place): Promise<KeptOut> {
  const known = await knownOf(app, scope);
  const offer = offerAt(known, place);
  const hosts = await hostsOf(app, scope)(offer);
  const members = await membersOf(app.db, scope, known.groups, group);
  const out = members.flatMap(({ person }) => {
    const link = missingLink(whyOf(whyFacts(app, known, offer, place.item, person, hosts)));
    return link
      ? [{ id: person.id, account: person.account, name: nameOfPerson(person), link: told(link) }]
      : [];
  });
  return { people: members.length, getIn: members.length - out.length, keptOut: out };
}

/** What is published, and to whom. */
export async function listItems(
  app: App,
  scope: CustomerScope,
  environment: string | undefined,
): Promise<Offered[]> {
  const known = await knownOf(app, scope);
  const offers = known.offers.filter(
    (offer) => environment === undefined || offer.environmentId === environment,
  );
  const granted = offers
    .flatMap(({ grants }) => grants)
    .flatMap(({ to, id }) => (to === 'person' ? [id] : []));
  const [people, { all: counts }, { here }] = await Promise.all([
    granteesOf(app.db, scope, granted),
    countMembers(app.db, scope, known.groups),
    countHere(app.db, scope),
  ]);
  const byId = new Map(people.map((one) => [one.id, one]));
  return offers.flatMap((offer) =>
    offer.items.map((item) => ({
      item: itemOf(offer, item),
      licences: offer.licences,
      seated: known.seats.get(offer.publication ?? '')?.size ?? 0,
      grants: offer.grants
        .filter((grant) => grant.item === item.name)
        .map(({ to, id, until }) => ({
          to,
          id,
          until,
          ...targetOf(to, id, known.groups, byId, counts, here),
        })),
    })),
  );
}

function targetOf(
  to: Grant['to'],
  id: string,
  groups: Groups,
  people: ReadonlyMap<string, KnownGrantee>,
  counts: ReadonlyMap<string, number>,
  here: number,
): { name: string; unit: string; inScope: boolean; people: number } {
  if (to === 'everyone') return { name: 'All people', unit: '', inScope: true, people: here };
  if (to === 'group') {
    const group = groups.get(id);
    return {
      name: group?.name ?? 'a group that is gone',
      unit: group?.unit ?? '',
      inScope: group?.inScope ?? false,
      people: counts.get(id) ?? 0,
    };
  }
  const person = people.get(id);
  const isHere = person?.leftAt === null;
  return {
    name: person ? nameOfPerson(person) : 'somebody who is gone',
    unit: person?.unit ?? '',
    inScope: isHere,
    people: isHere ? 1 : 0,
  };
}
