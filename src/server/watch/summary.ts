import type { Attention, Host } from '../../contract';
import { HOUR } from '../../core/calendar';
import { arcsOf, joinArcs, type Arc } from '../../core/status';
import { systemScope } from '../access';
import type { App } from '../app';
import { certificateSays } from '../certificates';
import { join, sql, transaction, type Connection } from '../db';
import { directoryLink } from '../directory-link';
import { hostsOfCustomers } from '../environments';
import { monthInShort, type PastDays } from '../costs';
import { awaitedHolds } from '../holds';
import { tell } from '../live';
import { networkSays } from '../networks';
import { beyondPlan } from '../plans';

/** Arcs that a ring on a card can still show, and one among hundreds. */
const MOST_ARCS = 24;
const FEW_ARCS = 10;
/** Customers at a time: as many as there are connections to spare. */
const AT_ONCE = 4;
/**
 * A summary that nothing has touched is taken again after so long, since money goes on by itself: where customers are many,
 * later, so that the worker spends no more of its time on them.
 */
const FRESH_MS = 30_000;
const FRESH_MS_EACH = 500;

/** Of many, as many as are taken in this time; the others after a rest, so that none of them waits for all. */
const SUMMARIES_MS = 2_000;

/** Takes anew what there is to take, as long as it may last. */
export async function keepSummaries(app: App): Promise<void> {
  const began = performance.now();
  while ((await takeSummaries(app)) > 0 && performance.now() - began < SUMMARIES_MS);
}

/** Takes anew the summaries that are stale, the oldest first, and those that have not been looked at for a while. */
export async function takeSummaries(app: App): Promise<number> {
  const wall = app.clock.wall();
  const due = await app.db.rows<{ id: string; code: string }>(
    `SELECT c.id, c.code FROM summary t JOIN customer c ON c.id = t.customer_id
     WHERE t.stale OR t.taken_wall < ? - GREATEST(?, (SELECT COUNT(*) FROM summary) * ?)
     ORDER BY t.stale DESC, t.taken_wall LIMIT ${AT_ONCE}`,
    [wall, FRESH_MS, FRESH_MS_EACH],
  );
  if (due.length === 0) return 0;
  // Marked fresh before counting: what changes while we count makes it stale again.
  await app.db.write(
    sql`UPDATE summary SET stale = FALSE, taken_wall = ${wall} WHERE customer_id IN (${join(due.map((one) => one.id))})`,
  );
  const hosts = await hostsOfCustomers(
    app.db,
    due.map((one) => one.id),
  );
  await Promise.all(due.map((customer) => take(app, customer, hosts.get(customer.id) ?? [])));
  return due.length;
}

interface KnownPast {
  readonly at: number;
  readonly days: PastDays;
}

/** Whole days that are over do not change: what they cost is reckoned again only after so long, by the clock. */
const PAST_FRESH_MS = 6 * HOUR;
const pastDays = new Map<string, KnownPast>();

function knownPast(customerId: string, now: number): PastDays | undefined {
  const known = pastDays.get(customerId);
  return known && Math.abs(now - known.at) < PAST_FRESH_MS ? known.days : undefined;
}

async function take(app: App, customer: { id: string; code: string }, hosts: readonly Host[]): Promise<void> {
  const now = app.clock.now();
  const known = knownPast(customer.id, now);
  const money = await monthInShort(app.db, systemScope(customer), now, known);
  if (!known) pastDays.set(customer.id, { at: now, days: money.past });
  const beyond = await beyondPlan(app.db, systemScope(customer), now);
  const apart = await networkSays(app, systemScope(customer));
  const ending = await certificateSays(app.db, systemScope(customer), now);
  const awaited = await awaitedHolds(app.db, systemScope(customer), now);
  const directory = await directoryLink(app.db, systemScope(customer));
  const attention: Attention[] = [
    ...hostAttention(hosts),
    ...apart.map((says) => ({ kind: 'drift' as const, says })),
    ...(money.unpriced > 0 ? [unpriced(money.unpriced)] : []),
    ...beyond.map((says) => ({ kind: 'plan' as const, says })),
    ...awaited.slice(0, MOST_AWAITED).map(({ title }) => waiting(title)),
    ...(directory.state === 'stopped' ? [{ kind: 'directory' as const, says: directory.says }] : []),
    ...ending.map((says) => ({ kind: 'gateway' as const, says })),
  ];
  const arcs = arcsOf(hosts, MOST_ARCS);
  const open = hosts.filter((host) => host.status === 'serving');
  await transaction(app.db, async (connection) => {
    // Someone who is in on two desktops is one person.
    const people = await connection.row<{ people: number }>(
      'SELECT COUNT(DISTINCT account) AS people FROM session WHERE customer_id = ?',
      [customer.id],
    );
    await connection.write(
      `UPDATE summary SET people = (SELECT COUNT(*) FROM person WHERE person.customer_id = summary.customer_id AND person.left_at IS NULL), hosts = ?, people_in = ?, seats = ?, seats_free = ?, arcs = ?, few_arcs = ?, attention = ?, cost_minor = ?, forecast_minor = ?
       WHERE customer_id = ?`,
      [
        hosts.length,
        people?.people ?? 0,
        open.reduce((sum, host) => sum + host.seats, 0),
        open.reduce((sum, host) => sum + Math.max(0, host.seats - host.sessions), 0),
        inShort(arcs),
        inShort(joinArcs(arcs, FEW_ARCS)),
        JSON.stringify(attention),
        money.soFar.minor,
        money.forecast.minor,
        customer.id,
      ],
    );
    await tell(connection, customer.id, 'summary', customer.code, app.clock.wall());
  });
}

/** Nobody sees less than a hundredth of how full an arc is. */
const inShort = (arcs: readonly Arc[]): string =>
  JSON.stringify(arcs.map((arc) => ({ ...arc, fill: Math.round(arc.fill * 100) / 100 })));

function hostAttention(hosts: readonly Host[]): Attention[] {
  // Of one that is unwell its signs tell, with whom that hits.
  const drifting = hosts.filter((host) => host.status !== 'unwell' && host.drift.length > 0);
  const kinds = [...new Set(drifting.flatMap((host) => host.drift))];
  return kinds.map((says) => {
    const names = drifting.filter((host) => host.drift.includes(says)).map((host) => host.name);
    const [first = ''] = names;
    return { kind: 'drift', says: `${names.length === 1 ? first : `${names.length} hosts`}: ${says}` };
  });
}

/** So many are told one by one. */
const MOST_AWAITED = 3;

const waiting = (title: string): Attention => ({ kind: 'approval', says: `${title}: waits for a lead` });

const unpriced = (count: number): Attention => ({
  kind: 'money',
  says: `${count} ${count === 1 ? 'kind' : 'kinds'} of usage without a rate`,
});

/** Has every summary taken anew. */
export const everySummaryStale = async (db: Connection): Promise<void> =>
  void (await db.write('UPDATE summary SET stale = TRUE, taken_wall = 0'));
