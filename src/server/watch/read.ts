import type { Attention, CustomerState, CustomerSummary, Watch } from '../../contract';
import type { Arc } from '../../core/status';
import { reachable, type CustomerScope, type Scope } from '../access';
import { raw, sql, type Connection } from '../db';
import { runsDone, runsUnderWay } from '../runs';

interface Stored {
  readonly code: string;
  readonly name: string;
  readonly state: CustomerState;
  readonly currency: string;
  readonly mark_hue: number;
  readonly mark_shape: number;
  readonly mark_pattern: number;
  readonly arcs: string;
  readonly attention: string;
  readonly hosts: number;
  readonly people_in: number;
  readonly seats: number;
  readonly seats_free: number;
  readonly cost_minor: number;
  readonly forecast_minor: number;
}

const LATELY = 6;

const SUMMARY = `SELECT c.code, c.name, c.state, c.currency, c.mark_hue, c.mark_shape, c.mark_pattern, t.arcs, t.attention, t.hosts,
    t.people_in, t.seats, t.seats_free, t.cost_minor, t.forecast_minor
  FROM customer c JOIN summary t ON t.customer_id = c.id`;

/** One customer at a glance. */
export async function summaryOf(db: Connection, { customer }: CustomerScope): Promise<CustomerSummary> {
  const row = await db.row<Stored>(`${SUMMARY} WHERE c.id = ?`, [customer.id]);
  if (!row) throw new Error(`${customer.code} has no summary`);
  return readSummary(row);
}

/** Everything that the home page shows of the customers in reach: four queries, however many they are. */
export async function watch(db: Connection, scope: Scope): Promise<Watch> {
  const rows = await db.rows<Stored>(
    sql`${raw(SUMMARY)} WHERE ${reachable(scope, 'c.id')} AND c.state <> 'retired' AND c.kind = 'customer' ORDER BY c.code`,
  );
  const providers = await db.rows<{ name: string; sign_in_says: string }>(
    'SELECT name, sign_in_says FROM provider WHERE NOT sign_in_works',
  );
  return {
    customers: rows.map(readSummary),
    runs: await runsUnderWay(db, scope),
    lately: await runsDone(db, scope, LATELY),
    attention: providers.map((one) => ({ kind: 'provider', says: `${one.name}: ${one.sign_in_says}` })),
  };
}

const readSummary = (row: Stored): CustomerSummary => ({
  code: row.code,
  name: row.name,
  state: row.state,
  mark: { code: row.code, hue: row.mark_hue, shape: row.mark_shape, pattern: row.mark_pattern },
  arcs: JSON.parse(row.arcs) as Arc[],
  attention: JSON.parse(row.attention) as Attention[],
  hosts: row.hosts,
  peopleIn: row.people_in,
  seats: row.seats,
  seatsFree: row.seats_free,
  soFar: { minor: row.cost_minor, currency: row.currency },
  forecast: { minor: row.forecast_minor, currency: row.currency },
});
