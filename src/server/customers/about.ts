import {
  customerDetailsSchema,
  type ChangedCustomer,
  type CustomerDetails,
  type CustomerState,
  type WholeCustomer,
} from '../../contract';
import { isZone } from '../../core/calendar';
import type { CustomerScope } from '../access';
import { sql, type Connection, type Lock } from '../db';
import { planNow } from '../plans';
import { notFound, unusable } from '../problem';
import { write, type Tx, type WriteHouse } from '../write';
import { calendarFault } from './calendar';
import { refuseGone } from './read';

/** What is kept of a customer's details, with all that was left out. */
export function readDetails(kept: string): CustomerDetails {
  const { error, value } = customerDetailsSchema.validate(JSON.parse(kept));
  if (error) throw error;
  return value;
}

/** What everything of theirs is tagged with. */
export async function tagsOfCustomer(
  db: Connection,
  { customer }: CustomerScope,
): Promise<Readonly<Record<string, string>>> {
  const row = await db.row<{ tags: string | null }>(
    "SELECT JSON_QUERY(details, '$.tags') AS tags FROM customer WHERE id = ?",
    [customer.id],
  );
  return JSON.parse(row?.tags ?? '{}') as Record<string, string>;
}

/** All that is said of a customer who is gone, but code, name and currency, is said no more. @returns whether it was said */
export const forgetDetails = async (
  tx: Connection,
  { customer }: CustomerScope,
  now: number,
): Promise<boolean> =>
  (await tx.write(
    `UPDATE customer SET details = '{}', data_deleted_at = ?
     WHERE id = ? AND state = 'retired' AND data_deleted_at IS NULL`,
    [now, customer.id],
  )) === 1;

/** Everything that is said of a customer. @throws Problem 404 */
export async function aboutCustomer(
  db: Connection,
  { customer }: CustomerScope,
  now: number,
): Promise<WholeCustomer> {
  const row = await db.row<{
    code: string;
    name: string;
    state: CustomerState;
    plan: string;
    site: string;
    zone: string;
    currency: string;
    card: string;
    details: string;
  }>(
    sql`SELECT c.code, c.name, c.state, p.code AS plan, c.home_site AS site, c.zone, c.currency, c.card_code AS card, c.details
        FROM customer c ${planNow(now)} WHERE c.id = ${customer.id}`,
  );
  if (!row) throw notFound('customer');
  const { details, ...about } = row;
  return { ...about, ...readDetails(details) };
}

/** @throws Problem 422 beside the field */
export function refuseDetails({
  zone,
  calendar,
}: {
  zone: string;
  calendar: CustomerDetails['calendar'];
}): void {
  if (!isZone(zone)) throw unusable('zone', 'is not an IANA time zone');
  const fault = calendarFault(calendar.country, calendar.region);
  if (fault) throw unusable(fault.field, fault.says);
}

/** @throws Problem 422 where another customer's people sign in at that name: whose, is not told */
export async function refuseTakenName(db: Connection, name: string, code: string): Promise<void> {
  if (
    name !== '' &&
    (await db.row('SELECT id FROM customer WHERE gateway_name = ? AND code <> ?', [name, code]))
  )
    throw unusable('gatewayName', 'is in use already');
}

type Changeable = Omit<ChangedCustomer, 'reason'>;

/** What of a customer is otherwise than it is, by name. */
export const changedFields = (before: WholeCustomer, after: Changeable): string[] =>
  (Object.keys(after) as (keyof Changeable)[]).filter(
    (field) => JSON.stringify(sorted(before[field])) !== JSON.stringify(sorted(after[field])),
  );

/** The same whatever the order of its keys. */
const sorted = (value: unknown): unknown => {
  if (Array.isArray(value)) return value.map(sorted);
  if (typeof value !== 'object' || value === null) return value;
  return Object.fromEntries(
    Object.entries(value)
      .sort(([a], [b]) => (a < b ? -1 : 1))
      .map(([key, one]) => [key, sorted(one)]),
  );
};

/** Says otherwise what may be said otherwise of a customer at any time. @returns the names of what changed */
export const changeCustomer = (
  house: WriteHouse,
  scope: CustomerScope,
  changed: ChangedCustomer,
): Promise<{ changed: string[] }> =>
  write(house, scope, [lockOf(scope)], (tx) => keepChanges(tx, scope, changed, house.clock.now()));

/** Who changes what is said of a customer holds this. */
export const lockOf = ({ customer: { id } }: CustomerScope): Lock => ({ table: 'customer', key: { id } });

/** The same within a transaction that holds the customer. */
export async function keepChanges(
  tx: Tx,
  scope: CustomerScope,
  { reason, ...after }: ChangedCustomer,
  now: number,
): Promise<{ changed: string[] }> {
  refuseDetails(after);
  const { id, code } = scope.customer;
  await refuseGone(tx, scope);
  const before = await aboutCustomer(tx, scope, now);
  const changed = changedFields(before, after);
  if (changed.length === 0) return { changed };
  await refuseTakenName(tx, after.gatewayName, code);
  const { name, zone, ...details } = after;
  await tx.write('UPDATE customer SET name = ?, zone = ?, details = ? WHERE id = ?', [
    name,
    zone,
    JSON.stringify(details),
    id,
  ]);
  const only = (one: Changeable): object =>
    Object.fromEntries(Object.entries(one).filter(([field]) => changed.includes(field)));
  await tx.record({
    action: 'change customer',
    subject: name,
    before: only(before),
    after: only(after),
    reason,
    topic: 'summary',
    id: code,
  });
  return { changed };
}
