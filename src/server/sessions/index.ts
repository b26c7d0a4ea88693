import type { Session, SessionCount } from '../../contract';
import { MSP, within, type CustomerScope, type Scope } from '../access';
import { all, atMost, holds, sql, type Connection, type Sql } from '../db';
import { WHOSE_PAST, WHOSE_SESSION } from '../present';
import { Problem } from '../problem';

export interface SessionPage {
  /** Where the page before ended, as `sessionCursor` writes it. */
  readonly after?: string | undefined;
  /** Only those whose account, person or host contains this. */
  readonly find?: string | undefined;
  readonly limit: number;
  /** Only those that are so. */
  readonly state?: Session['state'] | undefined;
  /** Only those that are idle since before then. */
  readonly idleSince?: number | undefined;
  /** Only those of one environment. */
  readonly environment?: string | undefined;
  /** Only those on one host. */
  readonly on?: { readonly provider: string; readonly ref: string } | undefined;
}

export const sessionCursor = ({ since, id }: Session): string => `${since}-${id}`;

/**
 * Who is signed in where, the newest first: of one customer when inside it, otherwise of all in reach.
 * @throws Problem 400 when `after` is no cursor
 */
export async function listSessions(
  db: Connection,
  scope: Scope | CustomerScope,
  page: SessionPage,
): Promise<Session[]> {
  const where = all([
    within(scope, 'f.customer_id'),
    // What is nobody's is the MSP's own, and no customer's session.
    sql`f.customer_id <> ${MSP.id}`,
    page.after === undefined ? undefined : olderThan(page.after),
    holds(sql`f.find_text`, page.find),
    page.state && sql`f.state = ${page.state}`,
    page.idleSince === undefined ? undefined : sql`f.idle_since <= ${page.idleSince}`,
    page.environment === undefined
      ? undefined
      : sql`EXISTS (SELECT 1 FROM present_resource w WHERE (w.customer_id, w.provider_code, w.ref) = (f.customer_id, f.provider_code, f.host_ref)
            AND w.environment_id = ${page.environment})`,
    page.on && sql`f.provider_code = ${page.on.provider} AND f.host_ref = ${page.on.ref}`,
  ]);
  return db.rows<Session>(
    // First which, from one index in their order; then what is shown of those few.
    sql`SELECT STRAIGHT_JOIN s.id, s.provider_code AS provider, c.code AS customer, s.account, CONCAT(p.given, ' ', p.family) AS person, p.id AS personId, o.name AS host, o.resource_id AS hostId,
       e.name AS environment, e.id AS environmentId, s.state, s.since, GREATEST(s.since, s.state_since) AS stateSince
     FROM (SELECT f.customer_id, f.provider_code, f.id FROM session f WHERE ${where}
         ORDER BY f.since DESC, f.id DESC ${atMost(page.limit)}) AS found
       JOIN session s ON (s.customer_id, s.provider_code, s.id) = (found.customer_id, found.provider_code, found.id)
       JOIN customer c ON c.id = s.customer_id
       JOIN present_resource o ON (o.customer_id, o.provider_code, o.ref) = (s.customer_id, s.provider_code, s.host_ref)
       LEFT JOIN environment e ON e.customer_id = o.customer_id AND e.id = o.environment_id
       LEFT JOIN person p ON ${WHOSE_SESSION}
     ORDER BY s.since DESC, s.id DESC`,
  );
}

function olderThan(cursor: string): Sql {
  const [, since = '', id = ''] = /^(\d+)-([\w/-]+)$/.exec(cursor) ?? [];
  if (id === '')
    throw new Problem(400, 'invalid', 'That is no place in this list.', {
      fields: { after: 'use the `next` of the page before' },
    });
  return sql`(f.since < ${Number(since)} OR (f.since = ${Number(since)} AND f.id < ${id}))`;
}

/** How many sessions each customer in reach has; the most first. Customers without any are left out. */
export async function countSessions(db: Connection, scope: Scope): Promise<SessionCount[]> {
  const rows = await db.rows<{ customer: string; active: string; idle: string }>(
    sql`SELECT c.code AS customer, SUM(s.state = 'active') AS active, SUM(s.state = 'idle') AS idle
     FROM session s JOIN customer c ON c.id = s.customer_id AND c.kind = 'customer'
     WHERE ${within(scope, 's.customer_id')} GROUP BY c.code ORDER BY COUNT(*) DESC, c.code`,
  );
  return rows.map((row) => ({ ...row, active: Number(row.active), idle: Number(row.idle) }));
}

/** A session that is over. */
export interface PastSession {
  readonly account: string;
  readonly person: string | null;
  readonly host: string;
  readonly since: number;
  readonly endedAt: number;
}

/**
 * How long each of a customer's people was in which pool, within bounds, in whole seconds. They are told by our ids; who
 * is not of the directory, by their account.
 */
export async function timeIn(
  db: Connection,
  { customer }: CustomerScope,
  bounds: { readonly from: number; readonly to: number },
): Promise<
  {
    readonly environmentId: string;
    readonly pool: string;
    readonly who: string;
    readonly seconds: number;
  }[]
> {
  const { from, to } = bounds;
  const rows = await db.rows<{ environmentId: string; pool: string; who: string; seconds: string }>(
    sql`SELECT r.environment_id AS environmentId, SUBSTRING(JSON_VALUE(r.attributes, '$.pool'), 6) AS pool,
          COALESCE(p.id, s.account) AS who, SUM((LEAST(s.ended_at, ${to}) - GREATEST(s.since, ${from})) DIV 1000) AS seconds
        FROM (
          SELECT customer_id, provider_code, host_ref, account, since, ended_at FROM session_past
          WHERE customer_id = ${customer.id} AND ended_at > ${from} AND since < ${to}
          UNION ALL
          SELECT customer_id, provider_code, host_ref, account, since, ${to} AS ended_at FROM session
          WHERE customer_id = ${customer.id} AND since < ${to}
        ) s
        JOIN present_resource o ON (o.customer_id, o.provider_code, o.ref) = (${customer.id}, s.provider_code, s.host_ref)
        JOIN resource r ON (r.customer_id, r.id) = (o.customer_id, o.resource_id) AND r.kind = 'host'
        LEFT JOIN person p ON ${WHOSE_PAST}
        GROUP BY 1, 2, 3`,
  );
  return rows.map(({ seconds, ...row }) => ({ ...row, seconds: Number(seconds) }));
}

/** Where somebody was, or who was on a host, within the last month: the newest first. */
export const pastSessions = (
  db: Connection,
  scope: CustomerScope,
  of: { readonly person: string } | { readonly provider: string; readonly ref: string },
  most: number,
): Promise<PastSession[]> =>
  db.rows<PastSession>(
    sql`SELECT s.account, CONCAT(p.given, ' ', p.family) AS person, s.host, s.since, s.ended_at AS endedAt
        FROM session_past s LEFT JOIN person p ON ${WHOSE_PAST}
        WHERE s.customer_id = ${scope.customer.id} AND ${
          'person' in of
            ? sql`p.id = ${of.person}`
            : sql`s.provider_code = ${of.provider} AND s.host_ref = ${of.ref}`
        } ORDER BY s.ended_at DESC, s.since DESC ${atMost(most)}`,
  );

/** Whether anybody is or was in on a host of an environment, as far back as sessions are kept. */
export const wasAnybodyIn = async (
  db: Connection,
  { customer }: CustomerScope,
  environment: string,
): Promise<boolean> =>
  (await db.row(
    sql`SELECT 1 FROM present_resource o WHERE o.customer_id = ${customer.id} AND o.environment_id = ${environment} AND (
          EXISTS (SELECT 1 FROM session s
            WHERE (s.customer_id, s.provider_code, s.host_ref) = (o.customer_id, o.provider_code, o.ref))
          OR EXISTS (SELECT 1 FROM session_past p
            WHERE (p.customer_id, p.provider_code, p.host_ref) = (o.customer_id, o.provider_code, o.ref))) LIMIT 1`,
  )) !== undefined;
