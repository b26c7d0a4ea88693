import { isZone } from '../../core/calendar';
import { type Actor, type CustomerScope } from '../access';
import { newId, type Connection } from '../db';
import { Problem } from '../problem';
import { writeTrail } from '../trail';
import type { CustomerState } from './read';

export interface NewCustomer {
  readonly code: string;
  readonly name: string;
  readonly state: CustomerState;
  readonly plan: string;
  readonly site: string;
  readonly zone: string;
  readonly currency: string;
  readonly card: string;
  /** Which of the marks it gets: each number its own shape, pattern and hue. */
  readonly mark: number;
}

const SHAPES = 6;
const PATTERNS = 5;

/** Takes on a customer, with a tally that the worker will fill. @returns its id */
export async function createCustomer(
  connection: Connection,
  actor: Actor,
  customer: NewCustomer,
  now: number,
): Promise<string> {
  if (!isZone(customer.zone))
    throw new Problem(422, 'zone', 'The zone is not known.', {
      fields: { zone: 'is not an IANA time zone' },
    });
  const id = newId();
  await connection.write(
    `INSERT INTO customer (id, code, name, state, plan_code, home_site, zone, currency, card_code, realm,
       mark_hue, mark_shape, mark_pattern) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)`,
    [
      id,
      customer.code,
      customer.name,
      customer.state,
      customer.plan,
      customer.site,
      customer.zone,
      customer.currency,
      customer.card,
      `${customer.code.toLowerCase()}.example`,
      // Steps of the golden angle keep neighbours far apart however many there are.
      Math.round((customer.mark * 137.508 + 20) % 360),
      customer.mark % SHAPES,
      customer.mark % PATTERNS,
    ],
  );
  await connection.write(
    `INSERT INTO tally (customer_id, taken_wall, stale, hosts, people_in, seats, seats_free, arcs, attention, cost_minor, forecast_minor)
     VALUES (?, 0, TRUE, 0, 0, 0, 0, '[]', '[]', 0, 0)`,
    [id],
  );
  await writeTrail(connection, {
    customerId: id,
    at: now,
    actor,
    action: 'take on customer',
    subject: customer.name,
    after: { code: customer.code, plan: customer.plan, site: customer.site, currency: customer.currency },
  });
  return id;
}

/** Changes where a customer stands with us. */
export async function setCustomerState(
  connection: Connection,
  scope: CustomerScope,
  state: CustomerState,
  now: number,
): Promise<void> {
  const before = await connection.row<{ state: CustomerState }>(
    'SELECT state FROM customer WHERE id = ? FOR UPDATE',
    [scope.customer.id],
  );
  if (before?.state === state) return;
  await connection.write('UPDATE customer SET state = ? WHERE id = ?', [state, scope.customer.id]);
  await writeTrail(connection, {
    customerId: scope.customer.id,
    at: now,
    actor: scope.actor,
    action: 'change state',
    subject: scope.customer.code,
    before: { state: before?.state },
    after: { state },
  });
}
