import type { CustomerState, NewCustomer } from '../../contract';
import { isZone } from '../../core/calendar';
import { MSP, type CustomerScope, type Scope } from '../access';
import { newId, type Connection } from '../db';
import { putOnPlan } from '../plans';
import { conflict, unusable } from '../problem';
import { write, type WriteHouse } from '../write';

const SHAPES = 6;
const PATTERNS = 5;

/**
 * Takes on a customer, with a mark of its own and a summary that the worker will fill.
 * @throws Problem 409 when there is one of that code, 422 beside the field that cannot be used
 */
export async function createCustomer(
  house: WriteHouse,
  scope: Scope,
  customer: NewCustomer,
): Promise<{ id: string }> {
  if (!isZone(customer.zone)) throw unusable('zone', 'is not an IANA time zone');
  if (customer.code === MSP.code) throw unusable('code', 'is the MSP’s own');
  return write(house, scope, [], async (tx) => {
    if (await tx.row('SELECT id FROM customer WHERE code = ?', [customer.code]))
      throw conflict('code', `There is a customer ${customer.code} already.`);
    if (!(await tx.row('SELECT code FROM site WHERE code = ?', [customer.site])))
      throw unusable('site', 'is not known');
    const card = await tx.row<{ currency: string }>('SELECT currency FROM rate_card WHERE code = ?', [
      customer.card,
    ]);
    if (!card) throw unusable('card', 'is not known');
    if (card.currency !== customer.currency) throw unusable('card', `is in ${card.currency}`);
    const others = await tx.row<{ marks: number }>(
      "SELECT COUNT(*) AS marks FROM customer WHERE kind = 'customer'",
    );
    const mark = others?.marks ?? 0;
    const shape = await shapeFor(tx, customer.code, mark);
    const id = newId();
    await tx.write(
      `INSERT INTO customer (id, code, name, state, home_site, zone, currency, card_code, realm,
         mark_hue, mark_shape, mark_pattern) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)`,
      [
        id,
        customer.code,
        customer.name,
        customer.state,
        customer.site,
        customer.zone,
        customer.currency,
        customer.card,
        `${customer.code.toLowerCase()}.example`,
        // Steps of the golden angle keep neighbours far apart however many there are.
        Math.round((mark * 137.508 + 20) % 360),
        shape,
        mark % PATTERNS,
      ],
    );
    await putOnPlan(tx, id, customer.plan, house.clock.now());
    await tx.write(
      `INSERT INTO summary (customer_id, taken_wall, stale, hosts, people_in, seats, seats_free, arcs, attention, cost_minor, forecast_minor)
       VALUES (?, 0, TRUE, 0, 0, 0, 0, '[]', '[]', 0, 0)`,
      [id],
    );
    await tx.record({
      action: 'take on customer',
      subject: customer.name,
      after: { code: customer.code, plan: customer.plan, site: customer.site, currency: customer.currency },
      topic: 'summary',
      id: customer.code,
    });
    return { id };
  });
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
export async function setCustomerState(
  house: WriteHouse,
  scope: CustomerScope,
  state: CustomerState,
): Promise<void> {
  const { id, code } = scope.customer;
  await write(house, scope, [{ table: 'customer', key: { id } }], async (tx) => {
    const before = await tx.row<{ state: CustomerState }>('SELECT state FROM customer WHERE id = ?', [id]);
    if (before?.state === state) return;
    await tx.write('UPDATE customer SET state = ? WHERE id = ?', [state, id]);
    await tx.record({
      action: 'change state',
      subject: code,
      before: { state: before?.state },
      after: { state },
      topic: 'summary',
      id: code,
    });
  });
}
