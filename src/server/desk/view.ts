import type { Desk, DeskItem } from '../../contract';
import { deskStateOf, oneCardEach, OWN_NOW, ownState } from '../../core/desk';
import { expected, durationKey } from '../../core/durations';
import { grantedTo, missingLink, ownHost, whyOf } from '../../core/grants';
import type { CustomerScope } from '../access';
import type { App } from '../app';
import { sql } from '../db';
import { itemOf, knownOf, whyFacts, type KnownOffer } from '../grants';
import { nameOfPerson, personById } from '../people';
import { WHOSE_SESSION } from '../present';
import { notFound } from '../problem';
import { durationsAt } from '../runs';
import { messagesFor } from './messages';
import { hostsForPerson, keyOf, type DeskHost } from './hosts';

/** How long a host usually takes to start, where it was not measured often enough. */
const USUAL_START = 120;

/** Somebody's desk: what is theirs, and how it is for them now. @throws Problem 404 */
export async function deskView(app: App, scope: CustomerScope, id: string): Promise<Desk> {
  const person = await personById(app.db, scope, id);
  if (!person || person.leftAt !== null) throw notFound('person');
  const known = await knownOf(app, scope);
  const [customer, favourite, isIn] = await Promise.all([
    app.db.row<{ code: string; name: string; hue: number; shape: number; pattern: number }>(
      sql`SELECT code, name, mark_hue AS hue, mark_shape AS shape, mark_pattern AS pattern FROM customer
          WHERE id = ${scope.customer.id}`,
    ),
    app.db.row<{ environment_id: string; pool: string; item: string }>(
      sql`SELECT environment_id, pool, item FROM desk_favourite
          WHERE customer_id = ${scope.customer.id} AND person_id = ${id}`,
    ),
    whereIn(app, scope, id),
  ]);
  const granted = grantedTo(person, known.groups, known.offers, app.clock.now()).filter(
    ({ item }) => item.hidden !== true,
  );
  const offers = [...new Set(granted.map(({ offer }) => offer))];
  const hosts = await hostsForPerson(app, scope, offers);
  const seconds = new Map<string, number>();
  for (const { site } of offers) if (!seconds.has(site)) seconds.set(site, await startSeconds(app, site));
  const items = granted.map(({ offer, item }): DeskItem => {
    const there = hosts.get(keyOf(offer)) ?? [];
    const own = ownHost(there, person.id);
    const missing = missingLink(whyOf(whyFacts(app, known, offer, item.name, person, there)));
    const state = deskStateOf({
      isIn: isIn.has(keyOf(offer)),
      missing,
      own,
      startSeconds: seconds.get(offer.site) ?? USUAL_START,
    });
    const { site: _site, hidden: _hidden, ...shown } = itemOf(offer, item);
    return {
      ...shown,
      ...state,
      favourite:
        favourite?.environment_id === offer.environmentId &&
        favourite.pool === offer.pool &&
        favourite.item === item.name,
    };
  });
  if (!customer) throw notFound('customer');
  const { name, ...mark } = customer;
  const called = nameOfPerson(person);
  return {
    customer: { code: mark.code, name, mark },
    person: { account: person.account, name: called },
    items: oneCardEach(items).sort(
      (a, b) => Number(b.favourite) - Number(a.favourite) || a.kind.localeCompare(b.kind) * -1,
    ),
    own: offers.flatMap((offer) => {
      const own = ownHost(hosts.get(keyOf(offer)) ?? [], person.id);
      return own ? [ownDesktop(offer, own)] : [];
    }),
    messages: await messagesFor(app, scope, id, { person: called, customer: name }),
  };
}

function ownDesktop(offer: KnownOffer, own: DeskHost): Desk['own'][number] {
  const state = ownState(own);
  return {
    environmentId: offer.environmentId,
    pool: offer.pool,
    host: own.name,
    hostId: own.id,
    state,
    may: OWN_NOW[state].filter((act) => offer.may.includes(act)),
  };
}

export async function startSeconds(app: App, site: string): Promise<number> {
  return expected(await durationsAt(app.db, site), durationKey('host', 'power', ''), USUAL_START).seconds;
}

/** In which pools somebody is signed in, by environment and pool. */
async function whereIn(app: App, { customer }: CustomerScope, person: string): Promise<Set<string>> {
  const rows = await app.db.rows<{ environment_id: string; pool: string }>(
    sql`SELECT r.environment_id, SUBSTRING(JSON_VALUE(r.attributes, '$.pool'), 6) AS pool FROM session s
        JOIN resource r ON r.customer_id = s.customer_id AND r.provider_code = s.provider_code AND r.ref = s.host_ref
          AND r.kind = 'host' AND r.returned_at IS NULL
        JOIN person p ON ${WHOSE_SESSION}
        WHERE s.customer_id = ${customer.id} AND p.id = ${person}`,
  );
  return new Set(rows.map(({ environment_id, pool }) => `${environment_id} ${pool}`));
}
