import type { Instant } from '../calendar';
import type { Grant, PublishedItem } from '../intent';
import { reached, wayTo, type Reached } from '../people';
import { holdsAt } from './grant';

/** A group as grants need it, by our own id for it. */
export interface GroupFacts {
  readonly name: string;
  /** Where it stands in the directory. */
  readonly unit: string;
  /** Whether it is known here who is in it. */
  readonly inScope: boolean;
  /** Groups that it is in directly. */
  readonly above: readonly string[];
}

export type Groups = ReadonlyMap<string, GroupFacts>;

/** Somebody as grants need them. */
export interface GranteeFacts {
  readonly id: string;
  readonly leftAt: Instant | null;
  /** Groups that they are in directly. */
  readonly groups: readonly string[];
}

/** What a pool publishes, and to whom. */
export interface Offer {
  readonly environmentId: string;
  readonly environment: string;
  readonly pool: string;
  readonly items: readonly PublishedItem[];
  readonly grants: readonly Grant[];
}

/** An item that somebody has. */
export interface Granted<Own extends Offer = Offer> {
  readonly offer: Own;
  readonly item: PublishedItem;
  /** Each grant that gives it to them, with the way to its group: from a group that they are in to the one it is granted to. */
  readonly through: readonly { readonly grant: Grant; readonly way: readonly string[] }[];
}

/** Every group that somebody is in, through others too. What is outside the scope reaches nobody. */
export const groupsOf = ({ groups: direct }: GranteeFacts, groups: Groups): Reached =>
  reached(
    direct.filter((id) => groups.get(id)?.inScope),
    (id) => (groups.get(id)?.above ?? []).filter((one) => groups.get(one)?.inScope),
  );

/** What somebody will see, of all that is offered. Nobody who has left sees anything. */
export function grantedTo<Own extends Offer>(
  person: GranteeFacts,
  groups: Groups,
  offers: readonly Own[],
  at: Instant,
): Granted<Own>[] {
  if (person.leftAt !== null) return [];
  const own = groupsOf(person, groups);
  return offers.flatMap((offer) => {
    const reaching = offer.grants.filter((grant) => holdsAt(grant, at) && reaches(grant, person, own));
    return offer.items.flatMap((item) => {
      const through = reaching
        .filter((grant) => grant.item === item.name)
        .map((grant) => ({ grant, way: grant.to === 'group' ? wayTo(own, grant.id) : [] }));
      return through.length === 0 ? [] : [{ offer, item, through }];
    });
  });
}

const reaches = (grant: Grant, person: GranteeFacts, own: Reached): boolean => {
  switch (grant.to) {
    case 'everyone':
      return true;
    case 'group':
      return own.has(grant.id);
    case 'person':
      return grant.id === person.id;
  }
};

/** Ids of those to whom any item of an offer is granted. */
export function entitled(
  offer: Pick<Offer, 'items' | 'grants'>,
  people: readonly GranteeFacts[],
  groups: Groups,
  at: Instant,
): string[] {
  const names = new Set(offer.items.map(({ name }) => name));
  const grants = offer.grants.filter((grant) => names.has(grant.item) && holdsAt(grant, at));
  const here = people.filter(({ leftAt }) => leftAt === null);
  if (grants.some(({ to }) => to === 'everyone')) return here.map(({ id }) => id);
  const named = new Set(grants.filter(({ to }) => to === 'person').map(({ id }) => id));
  const granted = grants.filter(({ to, id }) => to === 'group' && groups.get(id)?.inScope);
  const below = new Map<string, string[]>();
  for (const [id, { above, inScope }] of groups)
    if (inScope) for (const one of above) below.set(one, [...(below.get(one) ?? []), id]);
  const within = reached(
    granted.map(({ id }) => id),
    (id) => below.get(id) ?? [],
  );
  return here
    .filter((one) => named.has(one.id) || one.groups.some((id) => within.has(id)))
    .map(({ id }) => id);
}

/**
 * Who has a licence seat: those first who have a desktop of their own there, which would be theirs for nothing without one;
 * then those who have a seat keep it as long as they are entitled; then the others in their order, as far as there are seats.
 * @param seats how many there are
 */
export function seated(
  entitledNow: readonly string[],
  holders: ReadonlySet<string>,
  seats: number,
  owners: ReadonlySet<string> = new Set(),
): string[] {
  const rank = (id: string): number => (owners.has(id) ? 0 : 2) + (holders.has(id) ? 0 : 1);
  const inOrder = [0, 1, 2, 3].flatMap((one) => entitledNow.filter((id) => rank(id) === one));
  return inOrder.slice(0, Math.max(0, seats));
}
