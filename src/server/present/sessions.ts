import { insertMany, join, sql, type Connection, type Sql } from '../db';
import { tell } from '../live';
import type { PresentSession, SessionChange } from '../providers';
import { markStale } from '../write';
import { WHOSE_SESSION } from './whose';

/** When it is: by what everything goes, and by the wall. */
interface Clocked {
  readonly now: number;
  readonly wall: number;
}

interface Known {
  readonly customer_id: string;
  readonly id: string;
  readonly host_ref: string;
  readonly account: string;
  readonly state: string;
}

/**
 * Takes in who is signed in at a provider: what has changed since last read is written, and whom it concerns is told.
 * @returns whether that was all: someone may be on a host of which nothing is known yet
 */
export async function readSessions(
  connection: Connection,
  provider: string,
  present: readonly PresentSession[],
  { now, wall }: Clocked,
): Promise<boolean> {
  const known = await connection.rows<Known>(
    'SELECT customer_id, id, host_ref, account, state FROM session WHERE provider_code = ?',
    [provider],
  );
  const hosts = await connection.rows<{ ref: string; customer_id: string; gone: number }>(
    "SELECT ref, customer_id, present_condition = 'gone' AS gone FROM present_resource WHERE provider_code = ? AND kind = 'host'",
    [provider],
  );
  const customerOf = new Map(
    hosts.filter((host) => host.gone === 0).map((host) => [host.ref, host.customer_id]),
  );
  const refs = new Set(hosts.map((host) => host.ref));
  const before = new Map(known.map((one) => [one.id, one]));
  const there = new Map(present.map((one) => [one.id, one]));
  // One whose id is on another host, or someone else's, is over as well: also where the new one's host is not known.
  const ended = known.filter((one) => {
    const same = there.get(one.id);
    return same?.host !== one.host_ref || same.account !== one.account;
  });
  const changed = present.filter((one) => {
    const old = before.get(one.id);
    const same = old?.state === one.state && old.host_ref === one.host && old.account === one.account;
    return customerOf.has(one.host) && !same;
  });
  await end(
    connection,
    provider,
    ended.map((one) => one.id),
    now,
  );
  await begin(connection, provider, changed, customerOf, now);
  const concerned = [
    ...ended.map((one) => one.customer_id),
    ...changed.map((one) => customerOf.get(one.host) ?? ''),
  ];
  await tellOf(connection, concerned, wall);
  return present.every((one) => refs.has(one.host));
}

/**
 * Takes in a stretch of a provider's record of who comes and goes. Taken in again, it is the same.
 * @returns the place up to which it was taken in: before the first that is on a host of which nothing is known yet
 */
export async function readSessionChanges(
  connection: Connection,
  provider: string,
  entries: readonly SessionChange[],
  { now, wall }: Clocked,
): Promise<number | undefined> {
  if (entries.length === 0) return undefined;
  const refs = [...new Set(entries.map((one) => one.host))];
  const customerOf = new Map<string, string>();
  const gone = new Set<string>();
  for (let at = 0; at < refs.length; at += CHUNK)
    for (const host of await connection.rows<{ ref: string; customer_id: string; gone: number }>(
      sql`SELECT ref, customer_id, present_condition = 'gone' AS gone FROM present_resource
          WHERE provider_code = ${provider} AND ref IN (${join(refs.slice(at, at + CHUNK))})`,
    )) {
      customerOf.set(host.ref, host.customer_id);
      if (host.gone === 1) gone.add(host.ref);
    }
  const first = entries.findIndex((one) => !customerOf.has(one.host));
  const known = first === -1 ? entries : entries.slice(0, first);
  // Of each session the last word counts.
  const last = new Map(known.map((one) => [one.id, one]));
  const begun: PresentSession[] = [];
  const ended: string[] = [];
  for (const one of last.values())
    if (one.state === 'ended' || gone.has(one.host)) ended.push(one.id);
    else begun.push(one);
  const owners = await ownersOf(connection, provider, [...last.keys()]);
  await end(connection, provider, ended, now);
  await begin(connection, provider, begun, customerOf, now);
  await tellOf(connection, [...owners, ...known.map((one) => customerOf.get(one.host) ?? '')], wall);
  return known.at(-1)?.seq;
}

const CHUNK = 500;

/** Whose the sessions of these ids are until now. */
async function ownersOf(
  connection: Connection,
  provider: string,
  ids: readonly string[],
): Promise<readonly string[]> {
  const owners = new Set<string>();
  for (let at = 0; at < ids.length; at += CHUNK)
    for (const one of await connection.rows<{ customer_id: string }>(
      sql`SELECT DISTINCT customer_id FROM session
          WHERE provider_code = ${provider} AND id IN (${join(ids.slice(at, at + CHUNK))})`,
    ))
      owners.add(one.customer_id);
  return [...owners];
}

/** Where somebody was is known for a while after. */
async function end(
  connection: Connection,
  provider: string,
  ids: readonly string[],
  now: number,
): Promise<void> {
  for (let at = 0; at < ids.length; at += CHUNK) {
    const which = sql`s.provider_code = ${provider} AND s.id IN (${join(ids.slice(at, at + CHUNK))})`;
    await connection.write(
      sql`INSERT IGNORE INTO session_past (customer_id, provider_code, id, since, ended_at, host_ref, host, account)
          SELECT s.customer_id, s.provider_code, s.id, s.since, GREATEST(s.since, ${now}), s.host_ref, o.name, s.account
          FROM session s JOIN present_resource o
            ON (o.customer_id, o.provider_code, o.ref) = (s.customer_id, s.provider_code, s.host_ref)
          WHERE ${which}`,
    );
    await connection.write(sql`DELETE s FROM session s WHERE ${which}`);
  }
}

async function begin(
  connection: Connection,
  provider: string,
  sessions: readonly PresentSession[],
  customerOf: ReadonlyMap<string, string>,
  now: number,
): Promise<void> {
  await insertMany(
    connection,
    'session',
    ['customer_id', 'id', 'provider_code', 'host_ref', 'account', 'state', 'since', 'state_since'],
    sessions.map((one) => [
      customerOf.get(one.host) ?? '',
      one.id,
      provider,
      one.host,
      one.account,
      one.state,
      one.since,
      // One that is new may have been so since it began.
      one.state === 'active' ? one.since : Math.max(one.since, now),
    ]),
    `ON DUPLICATE KEY UPDATE state_since = IF(state = VALUES(state) AND since = VALUES(since), state_since, ${Math.round(now)}),
       customer_id = VALUES(customer_id), host_ref = VALUES(host_ref),
       account = VALUES(account), state = VALUES(state), since = VALUES(since)`,
  );
  for (let at = 0; at < sessions.length; at += CHUNK)
    await makeFindable(
      connection,
      sql`s.provider_code = ${provider} AND s.id IN (${join(sessions.slice(at, at + CHUNK).map((one) => one.id))})`,
    );
}

const makeFindable = (connection: Connection, which: Sql): Promise<unknown> =>
  connection.write(
    sql`UPDATE session s
       JOIN present_resource o ON (o.customer_id, o.provider_code, o.ref) = (s.customer_id, s.provider_code, s.host_ref)
       LEFT JOIN person p ON ${WHOSE_SESSION}
     SET s.find_text = LEFT(CONCAT_WS(' ', LOWER(o.name), IFNULL(p.find_text, LOWER(s.account))), 1600) WHERE ${which}`,
  );

/** People have other names now, or have one at last: a customer's sessions are found by them. */
export const renameSessions = (connection: Connection, customerId: string): Promise<unknown> =>
  makeFindable(connection, sql`s.customer_id = ${customerId}`);

async function tellOf(connection: Connection, customers: readonly string[], wall: number): Promise<void> {
  const concerned = [...new Set(customers)];
  await markStale(connection, concerned);
  for (const customerId of concerned) await tell(connection, customerId, 'environment', customerId, wall);
}
