import type { CustomerState, Mark, NewCustomer } from '../../contract';
import { enter, MSP, type CustomerScope, type Scope } from '../access';
import { newId, type Connection } from '../db';
import { putOnPlan } from '../plans';
import { conflict, unusable } from '../problem';
import { reachToo } from '../operators';
import { beginSummary, write, type Tx, type WriteHouse } from '../write';
import { refuseDetails, refuseTakenName } from './about';

const SHAPES = 6;
const PATTERNS = 5;

/**
 * What is in the way of taking a customer on.
 * @throws Problem 409 when there is one of that code, 422 beside the field that cannot be used
 */
export async function refuseNew(db: Connection, customer: NewCustomer): Promise<void> {
  refuseDetails(customer);
  if (customer.code === MSP.code) throw unusable('code', 'is the MSP’s own');
  if (await db.row('SELECT id FROM customer WHERE code = ?', [customer.code]))
    throw conflict('code', `There is a customer ${customer.code} already.`);
  if (!(await db.row('SELECT code FROM plan WHERE code = ?', [customer.plan])))
    throw unusable('plan', 'is not known');
  if (!(await db.row('SELECT code FROM site WHERE code = ?', [customer.site])))
    throw unusable('site', 'is not known');
  await refuseTakenName(db, customer.gatewayName, customer.code);
  const card = await db.row<{ currency: string }>('SELECT currency FROM rate_card WHERE code = ?', [
    customer.card,
  ]);
  if (!card) throw unusable('card', 'is not known');
  if (card.currency !== customer.currency) throw unusable('card', `is in ${card.currency}`);
}

/** Takes on a customer, with a mark of its own and a summary that the worker will fill. @throws as `refuseNew` */
export const createCustomer = (
  house: WriteHouse,
  scope: Scope,
  customer: NewCustomer,
): Promise<{ id: string }> => write(house, scope, [], (tx) => takeOn(tx, scope, customer, house.clock.now()));

/** The same within a transaction. */
export async function takeOn(
  tx: Tx,
  scope: Scope,
  customer: NewCustomer,
  now: number,
): Promise<{ id: string }> {
  await refuseNew(tx, customer);
  const { code, name, state, plan, site, zone, currency, card, ...details } = customer;
  const mark = await markFor(tx, code);
  const id = newId();
  await tx.write(
    `INSERT INTO customer (id, code, name, state, home_site, zone, currency, card_code, details, realm,
       mark_hue, mark_shape, mark_pattern) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)`,
    [
      id,
      code,
      name,
      state,
      site,
      zone,
      currency,
      card,
      JSON.stringify(details),
      `${code.toLowerCase()}.example`,
      mark.hue,
      mark.shape,
      mark.pattern,
    ],
  );
  await putOnPlan(tx, id, plan, now);
  // Who reaches some customers reaches those too whom they take on.
  if (scope.customers) await reachToo(tx, scope.actor.id, id);
  await beginSummary(tx, id);
  // Only who reaches them hears of it.
  const inside = await enter(tx, { ...scope, customers: undefined }, code);
  await tx.inside(inside).record({
    action: 'take on customer',
    subject: name,
    after: { code, plan, site, currency, ...details },
    topic: 'summary',
    id: code,
  });
  return { id };
}

/** The mark that a customer of a code would get now. */
export async function markFor(db: Connection, code: string): Promise<Mark> {
  const others = await db.row<{ marks: number }>(
    "SELECT COUNT(*) AS marks FROM customer WHERE kind = 'customer'",
  );
  const mark = others?.marks ?? 0;
  return {
    code,
    // Steps of the golden angle keep neighbours far apart however many there are.
    hue: Math.round((mark * 137.508 + 20) % 360),
    shape: await shapeFor(db, code, mark),
    pattern: mark % PATTERNS,
  };
}

/** A mark tells three letters: of those that begin alike, each has another shape, as far as there are shapes. */
async function shapeFor(tx: Connection, code: string, mark: number): Promise<number> {
  const alike = await tx.rows<{ mark_shape: number }>(
    "SELECT mark_shape FROM customer WHERE kind = 'customer' AND LEFT(code, 3) = LEFT(?, 3)",
    [code],
  );
  const taken = new Set(alike.map((one) => one.mark_shape));
  const all = Array.from({ length: SHAPES }, (_, n) => (mark + n) % SHAPES);
  return all.find((shape) => !taken.has(shape)) ?? mark % SHAPES;
}

/** Changes where a customer stands with us. */
export const setCustomerState = (
  house: WriteHouse,
  scope: CustomerScope,
  state: CustomerState,
): Promise<void> =>
  write(house, scope, [{ table: 'customer', key: { id: scope.customer.id } }], (tx) =>
    keepState(tx, scope, state, { action: 'change state', reason: '' }),
  );

/** The same in a transaction that holds the customer. */
export async function keepState(
  tx: Tx,
  { customer: { id, code } }: CustomerScope,
  state: CustomerState,
  { action, reason }: { readonly action: string; readonly reason: string },
): Promise<void> {
  const before = await tx.row<{ state: CustomerState }>('SELECT state FROM customer WHERE id = ?', [id]);
  if (before?.state === state) return;
  await tx.write('UPDATE customer SET state = ? WHERE id = ?', [state, id]);
  await tx.record({
    action,
    subject: code,
    before: { state: before?.state },
    after: { state },
    reason,
    topic: 'summary',
    id: code,
  });
}

/**
 * Who was leaving has left. @param now ms since 1970
 * @returns false where somebody finished it meanwhile, or brought them back
 */
export const markRetired = async (tx: Tx, { customer }: CustomerScope, now: number): Promise<boolean> =>
  (await tx.write(
    "UPDATE customer SET state = 'retired', retired_at = ? WHERE id = ? AND state = 'leaving'",
    [now, customer.id],
  )) > 0;

/** What a customer was before they were paused: they are that again when they are started. */
export const notePausedFrom = (tx: Tx, { customer }: CustomerScope, state: CustomerState): Promise<number> =>
  tx.write('UPDATE customer SET paused_from = ? WHERE id = ?', [state, customer.id]);

/** Who the customer's people are has changed: what goes by it is looked at again. */
export const notePeople = (tx: Connection, { customer }: CustomerScope): Promise<number> =>
  tx.write('UPDATE customer SET people_version = people_version + 1 WHERE id = ?', [customer.id]);
