import type { Attention, CustomerState, CustomerSummary, LookMark, Watch } from '../../contract';
import { DAY } from '../../core/calendar';
import type { Gathered } from '../../core/signs';
import type { Arc } from '../../core/status';
import { reachable, type CustomerScope, type Scope } from '../access';
import { atMost, raw, sql, type Connection, type Sql } from '../db';
import { groundSays } from '../ground';
import { stoppedParents } from '../parent-runs';
import { planNow } from '../plans';
import { runsDone, runsUnderWay } from '../runs';
import { gatheredSigns } from '../signs';
import { looksOf, type StoppedParent } from './looks';
import { lookMarks } from './known-marks';

interface Stored {
  readonly code: string;
  readonly name: string;
  readonly state: CustomerState;
  readonly zone: string;
  readonly plan: string;
  readonly site: string;
  readonly currency: string;
  readonly mark_hue: number;
  readonly mark_shape: number;
  readonly mark_pattern: number;
  readonly tags: string | null;
  readonly arcs: string;
  readonly attention: string;
  readonly hosts: number;
  readonly people: number;
  readonly people_in: number;
  readonly seats: number;
  readonly seats_free: number;
  readonly cost_minor: number;
  readonly forecast_minor: number;
}

const LATELY = 6;

/** Where more customers than these stand together each is drawn small: a ring has fewer arcs then. */
const MANY = 60;
const MINE_DAYS = 30;

const columns = (arcs: 'arcs' | 'few_arcs', now: number): Sql =>
  sql`SELECT c.code, c.name, c.state, c.zone, p.name AS plan, s.name AS site, c.currency, c.mark_hue, c.mark_shape, c.mark_pattern,
    JSON_QUERY(c.details, '$.tags') AS tags, t.${raw(arcs)} AS arcs, t.attention, t.hosts,
    t.people, t.people_in, t.seats, t.seats_free, t.cost_minor, t.forecast_minor
  FROM customer c JOIN summary t ON t.customer_id = c.id ${planNow(now)}
    JOIN site s ON s.code = c.home_site`;

/** One customer at a glance. */
export async function summaryOf(
  db: Connection,
  { customer }: CustomerScope,
  now: number,
): Promise<CustomerSummary> {
  const row = await db.row<Stored>(sql`${columns('arcs', now)} WHERE c.id = ${customer.id}`);
  if (!row) throw new Error(`${customer.code} has no summary`);
  return readSummary(row);
}

/** Everything that the home page shows of the customers in reach: a handful of queries, however many they are. */
export async function watch(db: Connection, scope: Scope, now: number): Promise<Watch> {
  const count = await countShown(db, scope);
  const [rows, beside, mine, looked] = await Promise.all([
    db.rows<Stored>(
      sql`${columns(count > MANY ? 'few_arcs' : 'arcs', now)} WHERE ${shown(scope)} ORDER BY c.code`,
    ),
    besides(db, scope, now),
    customersOf(db, scope, now),
    looking(db, scope, now),
  ]);
  return told(rows, beside, mine, looked);
}

/** Of many, so many come with a page: as many as are seen before the page's own reading brings the others. */
const FIRST = 14;

/**
 * What comes with a page: everything, or of many customers the first by code, and how many there are.
 * @param needyFirst those that need a look come before the others
 */
export async function watchAtFirst(
  db: Connection,
  scope: Scope,
  now: number,
  needyFirst = false,
): Promise<{ readonly initial: Watch; readonly count: number }> {
  const count = await countShown(db, scope);
  if (count <= MANY) return { initial: await watch(db, scope, now), count };
  const order = needyFirst
    ? sql`(t.attention <> '[]' OR c.id IN (SELECT customer_id FROM run WHERE state = 'stopped')
        OR EXISTS (SELECT 1 FROM sign g WHERE g.customer_id = c.id AND g.ended_at IS NULL)) DESC, c.code`
    : sql`c.code`;
  const [rows, beside, looked] = await Promise.all([
    db.rows<Stored>(
      sql`${columns('few_arcs', now)} WHERE ${shown(scope)} ORDER BY ${order} ${atMost(FIRST)}`,
    ),
    besides(db, scope, now),
    looking(db, scope, now),
  ]);
  return { initial: told(rows, beside, [], looked), count };
}

interface Looked {
  readonly signs: Gathered[];
  readonly parents: readonly StoppedParent[];
  /** What got worse at sites, without the nodes whose loss the signs of their hosts tell: that is one line. */
  readonly ground: readonly string[];
  readonly marks: Map<string, LookMark>;
}

async function looking(db: Connection, scope: Scope, now: number): Promise<Looked> {
  const [signs, marks, parents] = await Promise.all([
    gatheredSigns(db, scope),
    lookMarks(db, scope, now),
    stoppedParents(db, scope),
  ]);
  const nodes = signs.flatMap(({ of, signs: [first] }) =>
    of === 'node' && first ? [`${first.site} ${first.node ?? ''}`] : [],
  );
  return { signs, marks, parents, ground: await groundSays(db, new Set(nodes)) };
}

function told(
  rows: readonly Stored[],
  { runs, lately, attention: beside }: Beside,
  mine: readonly string[],
  { signs, marks, parents, ground }: Looked,
): Watch {
  const customers = rows.map(readSummary);
  const attention = [...beside, ...ground.map((says) => ({ kind: 'provider' as const, says }))];
  return {
    customers,
    runs,
    lately,
    mine,
    looks: looksOf({ signs, customers, runs, parents, attention }, marks),
  };
}

async function countShown(db: Connection, scope: Scope): Promise<number> {
  const counted = await db.row<{ count: number }>(
    sql`SELECT COUNT(*) AS count FROM customer c WHERE ${shown(scope)}`,
  );
  return counted?.count ?? 0;
}

const shown = (scope: Scope): Sql =>
  sql`${reachable(scope, 'c.id')} AND c.state <> 'retired' AND c.kind = 'customer'`;

/** So many days before its end a secret is told of. */
const SECRET_DAYS = 30;

function providerSays(
  { works, says, ends }: { readonly works: number; readonly says: string; readonly ends: number | null },
  now: number,
): string {
  if (works === 0 || ends === null) return says;
  const day = new Date(ends).toISOString().slice(0, 10);
  return ends <= now ? `its secret ended on ${day}` : `its secret ends on ${day}`;
}

interface Beside extends Pick<Watch, 'runs' | 'lately'> {
  /** What concerns no one customer. */
  readonly attention: Attention[];
}

/** What is shown beside the customers: runs, and what concerns no one customer. */
async function besides(db: Connection, scope: Scope, now: number): Promise<Beside> {
  const [providers, runs, lately] = await Promise.all([
    db.rows<{ name: string; works: number; says: string; ends: number | null }>(
      sql`SELECT name, sign_in_works AS works, sign_in_says AS says, secret_ends_at AS ends FROM provider
          WHERE NOT sign_in_works OR secret_ends_at < ${now + SECRET_DAYS * DAY} ORDER BY name`,
    ),
    runsUnderWay(db, scope),
    runsDone(db, scope, LATELY),
  ]);
  return {
    runs,
    lately,
    attention: providers.map((one) => ({
      kind: 'provider' as const,
      says: `${one.name}: ${providerSays(one, now)}`,
    })),
  };
}

/** Whom the one who asks has changed something for lately. */
async function customersOf(db: Connection, scope: Scope, now: number): Promise<string[]> {
  const rows = await db.rows<{ code: string }>(
    sql`SELECT c.code FROM customer c WHERE ${reachable(scope, 'c.id')} AND c.kind = 'customer' AND c.id IN
      (SELECT t.customer_id FROM trail t WHERE t.actor_id = ${scope.actor.id} AND t.at > ${now - MINE_DAYS * DAY})
      ORDER BY c.code`,
  );
  return rows.map((row) => row.code);
}

const readSummary = (row: Stored): CustomerSummary => ({
  code: row.code,
  name: row.name,
  state: row.state,
  zone: row.zone,
  plan: row.plan,
  site: row.site,
  mark: { code: row.code, hue: row.mark_hue, shape: row.mark_shape, pattern: row.mark_pattern },
  tags: JSON.parse(row.tags ?? '{}') as Record<string, string>,
  arcs: JSON.parse(row.arcs) as Arc[],
  attention: JSON.parse(row.attention) as Attention[],
  hosts: row.hosts,
  people: row.people,
  peopleIn: row.people_in,
  seats: row.seats,
  seatsFree: row.seats_free,
  soFar: { minor: row.cost_minor, currency: row.currency },
  forecast: { minor: row.forecast_minor, currency: row.currency },
});
