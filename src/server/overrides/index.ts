import type { Override, OverrideEdit, OverrideWish } from '../../core/overrides';
import type { PolicyWish } from '../../core/planning';
import type { CustomerScope } from '../access';
import { atMost, insertMany, join, sql, type Connection, type Sql } from '../db';
import type { Tx } from '../write';

/* What is wanted of hosts otherwise than their intent says: the only room that reads and writes it. */

interface Stored {
  readonly host: string | null;
  readonly cause: Override['cause'];
  readonly attribute: Override['attribute'];
  readonly value: string;
  readonly why: string;
  readonly by: string;
  readonly since: number;
  readonly until: number | null;
}

/**
 * SQL: the overrides of an environment's hosts as JSON, for a statement that reads more. Read it with `readOverrides`.
 * @param environment SQL of the environment's customer and id, like `e.customer_id` and `e.id`
 */
export const overridesJson = (customer: Sql, environment: Sql): Sql =>
  sql`(SELECT JSON_ARRAYAGG(JSON_OBJECT('host', h.resource_key, 'cause', o.cause, 'attribute', o.attribute, 'value', o.value,
      'why', o.why, 'by', o.made_by, 'since', o.since_at, 'until', o.until_at))
    FROM host_override o LEFT JOIN resource h ON (h.customer_id, h.id) = (o.customer_id, o.resource_id)
    WHERE o.customer_id = ${customer}
      AND (o.resource_id IS NULL OR (h.environment_id = ${environment} AND h.returned_at IS NULL)))`;

/** SQL: the same of one host. @param host SQL of its customer, its id and its key */
export const hostOverridesJson = (customer: Sql, id: Sql, key: Sql): Sql =>
  sql`(SELECT JSON_ARRAYAGG(JSON_OBJECT('host', ${key}, 'cause', o.cause, 'attribute', o.attribute, 'value', o.value,
      'why', o.why, 'by', o.made_by, 'since', o.since_at, 'until', o.until_at) ORDER BY o.cause, o.attribute)
    FROM host_override o WHERE o.customer_id = ${customer} AND o.subject IN ('', ${id}))`;

export const readOverrides = (json: string | null): Override[] =>
  (JSON.parse(json ?? '[]') as Stored[]).map(({ attribute, value, ...rest }) => ({
    ...rest,
    ...wishFrom(attribute, value),
  }));

function wishFrom(attribute: Override['attribute'], value: string): OverrideWish {
  switch (attribute) {
    case 'power':
      return { attribute, value: value === 'off' ? 'off' : 'on' };
    case 'accepting':
      return { attribute, value: value === 'true' };
    case 'picture':
      return { attribute, value: true };
  }
}

/** What overrides the intent of an environment's hosts, of those alone and of all of the customer's. */
export async function overridesOf(
  db: Connection,
  { customer }: CustomerScope,
  environment: string,
): Promise<Override[]> {
  const row = await db.row<{ found: string | null }>(
    sql`SELECT ${overridesJson(sql`${customer.id}`, sql`${environment}`)} AS found`,
  );
  return readOverrides(row?.found ?? null);
}

/** Who sets something by hand, and why. */
interface Made {
  readonly why: string;
  readonly by: string;
  readonly since: number;
}

/**
 * Keeps what a change sets by hand, and removes what it sets no longer.
 * @param idOf the id of a host's resource, by its key
 */
export async function keepOverrides(
  tx: Tx,
  { customer }: CustomerScope,
  { set, lift }: OverrideEdit,
  idOf: (key: string) => string,
  made: Made,
): Promise<void> {
  for (const [attribute, hosts] of grouped(lift))
    await tx.write(
      sql`DELETE FROM host_override WHERE customer_id = ${customer.id} AND cause = 'by hand' AND attribute = ${attribute}
          AND resource_id IN (${join(hosts.map(idOf))})`,
    );
  await insertMany(
    tx,
    'host_override',
    [
      'customer_id',
      'subject',
      'cause',
      'attribute',
      'value',
      'resource_id',
      'why',
      'made_by',
      'since_at',
      'until_at',
    ],
    set.map(({ host, attribute, value, until }) => [
      customer.id,
      idOf(host),
      'by hand',
      attribute,
      String(value),
      idOf(host),
      made.why.slice(0, 255),
      made.by.slice(0, 120),
      made.since,
      until,
    ]),
    `ON DUPLICATE KEY UPDATE value = VALUES(value), why = VALUES(why), made_by = VALUES(made_by), since_at = VALUES(since_at),
       until_at = VALUES(until_at)`,
  );
}

function grouped(lift: OverrideEdit['lift']): Map<string, string[]> {
  const found = new Map<string, string[]>();
  for (const { host, attribute } of lift) found.set(attribute, [...(found.get(attribute) ?? []), host]);
  return found;
}

/** Every host of a customer is off, as long as the customer is paused, but for what is set by hand. */
export const pauseHosts = (tx: Tx, { customer }: CustomerScope, made: Made): Promise<unknown> =>
  tx.write(
    `INSERT INTO host_override (customer_id, subject, cause, attribute, value, resource_id, why, made_by, since_at, until_at)
     VALUES (?, '', 'customer paused', 'power', 'off', NULL, ?, ?, ?, NULL)
     ON DUPLICATE KEY UPDATE why = VALUES(why), made_by = VALUES(made_by), since_at = VALUES(since_at)`,
    [customer.id, made.why.slice(0, 255), made.by.slice(0, 120), made.since],
  );

/** A customer's hosts are what they were before they were paused. */
export const unpauseHosts = (tx: Tx, { customer }: CustomerScope): Promise<unknown> =>
  tx.write("DELETE FROM host_override WHERE customer_id = ? AND cause = 'customer paused'", [customer.id]);

/** Of hosts that are given back nothing is set by hand any more; nor of what is over. */
export const dropOverrides = (
  tx: Tx,
  { customer }: CustomerScope,
  environment: string,
  now: number,
): Promise<unknown> =>
  tx.write(
    `DELETE o FROM host_override o JOIN resource h ON (h.customer_id, h.id) = (o.customer_id, o.resource_id)
     WHERE o.customer_id = ? AND h.environment_id = ? AND (o.until_at <= ? OR NOT h.wanted OR h.returned_at IS NOT NULL)`,
    [customer.id, environment, now],
  );

/** An environment in which something begins or ends to be overridden. */
export interface DueEnvironment {
  readonly customer: { readonly id: string; readonly code: string };
  readonly environment: string;
  /** How its hosts are switched; null: as usual. */
  readonly policy: PolicyWish | null;
}

/** The environments whose overrides are to be looked at by now, the longest due first. */
export async function environmentsDue(db: Connection, now: number, most: number): Promise<DueEnvironment[]> {
  const rows = await db.rows<{ customer: string; code: string; id: string; policy: string | null }>(
    sql`SELECT e.customer_id AS customer, c.code, e.id, e.overrides_policy AS policy
        FROM environment e JOIN customer c ON c.id = e.customer_id
        WHERE e.overrides_due_at <= ${now} ORDER BY e.overrides_due_at ${atMost(most)}`,
  );
  return rows.map(({ customer, code, id, policy }) => ({
    customer: { id: customer, code },
    environment: id,
    policy: policy === null ? null : (JSON.parse(policy) as PolicyWish),
  }));
}

/** Has the hosts of all of a customer's environments looked at, and switched in this way. */
export const haveLookedAt = (
  tx: Tx,
  { customer }: CustomerScope,
  now: number,
  policy: PolicyWish | null,
): Promise<unknown> =>
  tx.write(
    "UPDATE environment SET overrides_due_at = ?, overrides_policy = ? WHERE customer_id = ? AND wanted = 'serving'",
    [now, policy === null ? null : JSON.stringify(policy), customer.id],
  );

/** Has an environment looked at again later, where its hosts could not be switched. */
export const postpone = (
  db: Connection,
  { customer, environment }: DueEnvironment,
  until: number,
): Promise<unknown> =>
  db.write('UPDATE environment SET overrides_due_at = ? WHERE customer_id = ? AND id = ?', [
    until,
    customer.id,
    environment,
  ]);

/** Notes when overrides of an environment are to be looked at next; null: nothing of them ends by itself. */
export const noteDue = (
  db: Connection,
  { customer }: CustomerScope,
  environment: string,
  next: number | null,
): Promise<unknown> =>
  db.write(
    'UPDATE environment SET overrides_due_at = ?, overrides_policy = NULL WHERE customer_id = ? AND id = ?',
    [next, customer.id, environment],
  );
