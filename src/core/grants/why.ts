import type { Instant } from '../calendar';
import type { Grant } from '../intent';
import { wayTo, type DirectoryScope } from '../people';
import type { HostStatus } from '../status';
import { groupsOf, type GranteeFacts, type GroupFacts, type Groups, type Offer } from './effective';
import { holdsAt } from './grant';

/** The links between a person and an item, in order: each rests on those before it. */
export const WHY_LINKS = ['person', 'grant', 'licence', 'host'] as const;
export type WhyLink = (typeof WHY_LINKS)[number];

/** What mends a missing link: which page or change, and for whom or what. */
export const WHY_MENDS = ['grant', 'scope', 'licences', 'assign', 'hosts', 'directory'] as const;

export interface Link {
  readonly link: WhyLink;
  readonly holds: boolean;
  readonly says: string;
  /** Of hosts: every seat is taken, and one may be free in a moment. */
  readonly isFull?: true;
  /** Undefined: it holds, or nothing that could be done here mends it. */
  readonly mend?: (typeof WHY_MENDS)[number];
}

/** A host of the pool, as an arrival finds it. */
export interface HostFacts {
  readonly name: string;
  readonly status: HostStatus;
  readonly sessions: number;
  readonly seats: number;
  /** Whose it is, by our id; left out: whoever comes. */
  readonly personId?: string | undefined;
  /** Whether it is kept for somebody who left: then nobody signs in there. */
  readonly kept?: boolean | undefined;
}

export interface WhyFacts {
  readonly at: Instant;
  readonly person: GranteeFacts & { readonly account: string };
  readonly groups: Groups;
  readonly scope: DirectoryScope;
  readonly offer: Offer;
  readonly item: string;
  /** Whether everyone has a host of their own there. */
  readonly isPersonal: boolean;
  /** Whether each of those is somebody's beforehand: a free one is nobody's who comes. Left out: not so. */
  readonly isAssigned?: boolean | undefined;
  /** Whether they have a licence seat, how many there are, and how many of them are taken. */
  readonly licence: { readonly has: boolean; readonly seats: number; readonly taken: number };
  readonly hosts: readonly HostFacts[];
  /** Writes an instant for people to read. */
  readonly written: (at: Instant) => string;
}

/**
 * Why somebody gets in, or why not: link by link from them to a host with a free seat. What comes after a link that is
 * missing is told too, as it would be.
 */
export const whyOf = (facts: WhyFacts): Link[] => [
  personLink(facts),
  grantLink(facts),
  licenceLink(facts),
  hostLink(facts),
];

/** The first link that is missing; undefined: they get in. */
export const missingLink = (links: readonly Link[]): Link | undefined => links.find(({ holds }) => !holds);

const good = (link: WhyLink, says: string): Link => ({ link, holds: true, says });

function personLink({ person, written }: WhyFacts): Link {
  if (person.leftAt === null) return good('person', `${person.account} is in the directory`);
  return {
    link: 'person',
    holds: false,
    says: `${person.account} left ${written(person.leftAt)}`,
    mend: 'directory',
  };
}

function grantLink(facts: WhyFacts): Link {
  const { offer, item, person, groups, at, written } = facts;
  if (!offer.items.some(({ name }) => name === item))
    return { link: 'grant', holds: false, says: `${offer.pool} does not publish ${item}` };
  const own = groupsOf(person, groups);
  const grants = offer.grants.filter((grant) => grant.item === item);
  const name = (id: string): string => groups.get(id)?.name ?? 'a group that is gone';
  for (const grant of grants.filter((one) => holdsAt(one, at))) {
    const until = grant.until === null ? '' : `, until ${written(grant.until)}`;
    if (grant.to === 'everyone') return good('grant', `granted to everyone${until}`);
    if (grant.to === 'person' && grant.id === person.id) return good('grant', `granted to them${until}`);
    if (grant.to === 'group' && own.has(grant.id))
      return good('grant', `granted through ${wayTo(own, grant.id).map(name).join(' in ')}${until}`);
  }
  const misses = grants.map((grant) => missOf(grant, facts));
  const first = misses.find(({ mend }) => mend === 'scope') ?? misses[0];
  return {
    link: 'grant',
    holds: false,
    says: misses.length === 0 ? 'granted to nobody' : misses.map(({ says }) => says).join('; '),
    mend: first?.mend ?? 'grant',
  };
}

/** Why a grant does not reach them. */
function missOf(
  { to, id, until }: Grant,
  { person, groups, scope, at, written }: WhyFacts,
): { readonly says: string; readonly mend: 'grant' | 'scope' } {
  const group = groups.get(id);
  const whom =
    to === 'group' ? (group?.name ?? 'a group that is gone') : to === 'person' ? 'somebody else' : 'everyone';
  if (until !== null && until <= at)
    return { says: `granted to ${whom} until ${written(until)}, which is over`, mend: 'grant' };
  if (to === 'group' && group && !group.inScope)
    return {
      says: `granted to ${whom}, which stands in ${group.unit === '' ? 'no unit' : group.unit}, outside what is read: ${scopeSays(scope, groups)}`,
      mend: 'scope',
    };
  const between = to === 'group' ? outsideBelow(id, groups) : undefined;
  if (between)
    return {
      says: `granted to ${whom}; ${between.name} in it stands in ${between.unit === '' ? 'no unit' : between.unit}, outside what is read, so nobody knows who is in that`,
      mend: 'scope',
    };
  return {
    says:
      to === 'person' ? 'granted to somebody else' : `granted to ${whom}, and ${person.account} is not in it`,
    mend: 'grant',
  };
}

/** A group outside the scope that is in a group, through others too; undefined: there is none. */
function outsideBelow(id: string, groups: Groups): GroupFacts | undefined {
  const seen = new Set([id]);
  for (let level = [id]; level.length > 0;) {
    const below = [...groups].filter(
      ([one, { above }]) => !seen.has(one) && above.some((up) => level.includes(up)),
    );
    const outside = below.find(([, { inScope }]) => !inScope);
    if (outside) return outside[1];
    level = below.map(([one]) => one);
    for (const one of level) seen.add(one);
  }
  return undefined;
}

const scopeSays = ({ units }: DirectoryScope, groups: Groups): string => {
  const inside = [...groups.values()].filter(({ inScope }) => inScope).length;
  const where = units.length === 0 ? 'chosen groups' : units.join(', ');
  return `${where} (${inside} groups)`;
};

function licenceLink({ licence: { has, seats, taken } }: WhyFacts): Link {
  if (has) return good('licence', 'has a licence seat');
  if (taken < seats) return good('licence', 'a licence seat is free');
  return {
    link: 'licence',
    holds: false,
    says: `all ${seats} licence seats are taken`,
    mend: 'licences',
  };
}

/** The desktop of somebody's own, among the hosts of a pool. @param person by our id */
export const ownHost = <One extends Pick<HostFacts, 'personId' | 'kept'>>(
  hosts: readonly One[],
  person: string,
): One | undefined => hosts.find((one) => one.personId === person && one.kept !== true);

function hostLink({ hosts, isPersonal, isAssigned, person, offer }: WhyFacts): Link {
  const own = ownHost(hosts, person.id);
  if (own) return ownLink(own);
  const open = hosts.filter(({ personId }) => personId === undefined);
  if (isPersonal && (open.length === 0 || isAssigned === true))
    return {
      link: 'host',
      holds: false,
      says: `has no desktop of their own in ${offer.pool}`,
      mend: 'assign',
    };
  const serving = open.filter(({ status }) => status === 'serving');
  const free = serving.filter((one) => one.sessions < one.seats);
  if (free.length > 0) {
    const seats = free.reduce((sum, one) => sum + one.seats - one.sessions, 0);
    return good('host', `${seats} free seats on ${free.length} of ${open.length} hosts`);
  }
  const says =
    serving.length > 0
      ? `all ${serving.reduce((sum, one) => sum + one.seats, 0)} seats on ${serving.length} hosts are taken`
      : open.length === 0
        ? `${offer.pool} has no hosts`
        : `none of ${open.length} hosts takes anybody: ${statusesOf(open)}`;
  return {
    link: 'host',
    holds: false,
    says,
    mend: 'hosts',
    ...(serving.length > 0 ? { isFull: true as const } : {}),
  };
}

/** A desktop of one's own that is off is started by whoever comes. */
function ownLink({ name, status }: HostFacts): Link {
  if (status === 'serving' || status === 'off')
    return good(
      'host',
      status === 'off' ? `their own ${name} is off, and started when they come` : `their own ${name} is on`,
    );
  return { link: 'host', holds: false, says: `their own ${name} is ${status}`, mend: 'hosts' };
}

function statusesOf(hosts: readonly HostFacts[]): string {
  const counts = new Map<string, number>();
  for (const { status } of hosts) counts.set(status, (counts.get(status) ?? 0) + 1);
  return [...counts].map(([status, count]) => `${count} ${status}`).join(', ');
}
