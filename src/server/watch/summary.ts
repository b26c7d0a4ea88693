import type { Attention, Host } from '../../contract';
import { HOUR } from '../../core/calendar';
import { arcsOf } from '../../core/status';
import { systemScope } from '../access';
import type { App } from '../app';
import { join, sql, transaction, type Connection } from '../db';
import { hostsOfCustomers } from '../environments';
import { monthInShort, type PastDays } from '../costs';
import { tell } from '../live';

/** Arcs that a small ring can still show. */
const MOST_ARCS = 24;
/** Customers at a time: as many as there are connections to spare. */
const AT_ONCE = 4;
/** A summary that nothing has touched is taken again after so long: money goes on by itself. */
const FRESH_MS = 30_000;

/** Takes anew the summaries that are stale, the oldest first, and those that have not been looked at for a while. */
export async function takeSummaries(app: App): Promise<number> {
  const wall = app.clock.wall();
  const due = await app.db.rows<{ id: string; code: string }>(
    `SELECT c.id, c.code FROM summary t JOIN customer c ON c.id = t.customer_id
     WHERE t.stale OR t.taken_wall < ? ORDER BY t.stale DESC, t.taken_wall LIMIT ${AT_ONCE}`,
    [wall - FRESH_MS],
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
  const attention = [...hostAttention(hosts), ...(money.unpriced > 0 ? [unpriced(money.unpriced)] : [])];
  const open = hosts.filter((host) => host.status === 'serving');
  await transaction(app.db, async (connection) => {
    // Someone who is in on two desktops is one person.
    const people = await connection.row<{ people: number }>(
      'SELECT COUNT(DISTINCT account) AS people FROM session WHERE customer_id = ?',
      [customer.id],
    );
    await connection.write(
      `UPDATE summary SET people = (SELECT COUNT(*) FROM person WHERE person.customer_id = summary.customer_id), hosts = ?, people_in = ?, seats = ?, seats_free = ?, arcs = ?, attention = ?, cost_minor = ?, forecast_minor = ?
       WHERE customer_id = ?`,
      [
        hosts.length,
        people?.people ?? 0,
        open.reduce((sum, host) => sum + host.seats, 0),
        open.reduce((sum, host) => sum + Math.max(0, host.seats - host.sessions), 0),
        JSON.stringify(arcsOf(hosts, MOST_ARCS)),
        JSON.stringify(attention),
        money.soFar.minor,
        money.forecast.minor,
        customer.id,
      ],
    );
    await tell(connection, customer.id, 'summary', customer.code, app.clock.wall());
  });
}

function hostAttention(hosts: readonly Host[]): Attention[] {
  const drifting = hosts.filter((host) => host.drift.length > 0);
  const kinds = [...new Set(drifting.flatMap((host) => host.drift))];
  return kinds.map((says) => {
    const names = drifting.filter((host) => host.drift.includes(says)).map((host) => host.name);
    const [first = ''] = names;
    return { kind: 'drift', says: `${names.length === 1 ? first : `${names.length} hosts`}: ${says}` };
  });
}

const unpriced = (count: number): Attention => ({
  kind: 'money',
  says: `${count} ${count === 1 ? 'kind' : 'kinds'} of usage without a rate`,
});

/** Has every summary taken anew. */
export const everySummaryStale = async (db: Connection): Promise<void> =>
  void (await db.write('UPDATE summary SET stale = TRUE, taken_wall = 0'));
