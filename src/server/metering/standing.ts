import type { Attributes } from '../../core/intent';
import type { MeterNeed } from '../../core/rating';
import { within, type CustomerScope, type Scope } from '../access';
import type { App } from '../app';
import { raw, sql, type Connection } from '../db';
import { IS_RETAINED } from '../retained';

interface Need extends MeterNeed {
  /** The id of the customer whose it is. */
  readonly customer: string;
}

/** What all that is wanted, and what is retained, is metered as. @param off as it would be with every host off */
export async function needsOf(
  app: App,
  connection: Connection,
  scope: Scope | CustomerScope,
  off = false,
): Promise<Need[]> {
  const rows = await connection.rows<{ customer: string; kind: string; attributes: string }>(
    sql`SELECT r.customer_id AS customer, r.kind, r.attributes FROM resource r
        WHERE ${within(scope, 'r.customer_id')} AND ((r.wanted AND r.returned_at IS NULL) OR ${raw(IS_RETAINED)})`,
  );
  const kinds = new Map(app.catalogue.kinds.map((kind) => [kind.key, kind]));
  return rows.flatMap(({ customer, kind: key, attributes }) => {
    const kind = kinds.get(key);
    const own = JSON.parse(attributes) as Attributes;
    const as = off && kind?.carriesSessions === true ? { ...own, power: 'off' } : own;
    return (kind?.meters(as) ?? [])
      .filter((measure) => measure.state === 'on')
      .map(({ meter, size, quantity }) => ({ customer, meter, size, quantity }));
  });
}

/** How much of each metered thing each customer has, by its id; who has nothing is not there. */
export async function quantitiesOf(
  app: App,
  connection: Connection,
  scope: Scope | CustomerScope,
): Promise<Map<string, Record<string, number>>> {
  const quantities = new Map<string, Record<string, number>>();
  for (const { customer, meter, quantity } of await needsOf(app, connection, scope)) {
    const own = quantities.get(customer) ?? {};
    own[meter] = (own[meter] ?? 0) + quantity;
    quantities.set(customer, own);
  }
  return quantities;
}
