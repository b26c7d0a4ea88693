import type { Outlook } from '../../contract';
import { entitled, grantedTo, withGrants, type Offer, type PoolGrant } from '../../core/grants';
import type { Grant } from '../../core/intent';
import type { CustomerScope } from '../access';
import type { App } from '../app';
import { sql } from '../db';
import { granteesOf, groupFacts, nameOfPerson } from '../people';
import { notFound } from '../problem';
import { offersOf } from './offers';

/** So many of those who gain or lose are named. */
const MOST_NAMED = 50;

/** What some grants more and some fewer change for each person; nothing is changed. @throws Problem 404 */
export async function outlookOf(
  app: App,
  scope: CustomerScope,
  environment: string,
  { add, take }: { readonly add: readonly PoolGrant[]; readonly take: readonly PoolGrant[] },
): Promise<Outlook> {
  const before = (await offersOf(app.db, scope)).filter((one) => one.environmentId === environment);
  if (before.length === 0) throw notFound('environment');
  const of = (list: readonly PoolGrant[], pool: string): Grant[] => list.filter((one) => one.pool === pool);
  const after = before.map((offer) => ({
    ...offer,
    grants: withGrants(offer.grants, of(add, offer.pool), of(take, offer.pool)),
  }));
  const now = app.clock.now();
  const groups = await groupFacts(app.db, scope);
  const people = await granteesOf(app.db, scope);
  const rows = await app.db.rows<{ account: string }>(
    sql`SELECT DISTINCT LOWER(account) AS account FROM session WHERE customer_id = ${scope.customer.id}`,
  );
  const inNow = new Set(rows.map(({ account }) => account));
  const seen = (person: (typeof people)[number], offers: readonly Offer[]): Set<string> =>
    new Set(grantedTo(person, groups, offers, now).map(({ offer, item }) => `${offer.pool} ${item.name}`));
  const moved = people.map((person) => {
    const [was, is] = [seen(person, before), seen(person, after)];
    return {
      person,
      gains: [...is].some((one) => !was.has(one)),
      loses: [...was].some((one) => !is.has(one)),
      isOut: is.size === 0,
    };
  });
  const told = (some: typeof moved): { id: string; account: string; name: string }[] =>
    some.slice(0, MOST_NAMED).map(({ person }) => ({
      id: person.id,
      account: person.account,
      name: nameOfPerson(person),
    }));
  const gaining = moved.filter(({ gains }) => gains);
  const losing = moved.filter(({ loses }) => loses);
  return {
    gain: gaining.length,
    gaining: told(gaining),
    lose: losing.length,
    losing: told(losing),
    out: losing.filter(({ isOut }) => isOut).length,
    inNow: losing.filter(({ person }) => inNow.has(person.account.toLowerCase())).length,
    pools: after.map((offer) => {
      const count = entitled(offer, people, groups, now).length;
      return {
        pool: offer.pool,
        entitled: count,
        licences: offer.licences,
        short: Math.max(0, count - offer.licences),
      };
    }),
  };
}
