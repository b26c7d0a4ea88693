import { join, sql, type Connection } from '../db';

/** A customer's figures are kept ready, from the first on. */
export const beginSummary = (tx: Connection, customer: string): Promise<number> =>
  tx.write(
    `INSERT INTO summary (customer_id, taken_wall, stale, hosts, people_in, seats, seats_free, arcs, attention, cost_minor, forecast_minor)
     VALUES (?, 0, TRUE, 0, 0, 0, 0, '[]', '[]', 0, 0)`,
    [customer],
  );

/** So many are marked in a statement. */
const CHUNK = 500;

/** Has the figures of these customers taken anew. */
export async function markStale(connection: Connection, customers: Iterable<string>): Promise<void> {
  const all = [...new Set(customers)];
  for (let at = 0; at < all.length; at += CHUNK)
    await connection.write(
      sql`UPDATE summary SET stale = TRUE WHERE NOT stale AND customer_id IN (${join(all.slice(at, at + CHUNK))})`,
    );
}
