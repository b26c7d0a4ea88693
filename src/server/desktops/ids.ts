import type { CustomerScope } from '../access';
import type { Connection } from '../db';

/** Ids of an environment's hosts by their keys. */
export async function idsOf(
  db: Connection,
  { customer }: CustomerScope,
  environment: string,
  keys: readonly string[],
): Promise<string[]> {
  if (keys.length === 0) return [];
  const rows = await db.rows<{ id: string; resource_key: string }>(
    "SELECT id, resource_key FROM resource WHERE customer_id = ? AND environment_id = ? AND kind = 'host' AND returned_at IS NULL AND wanted",
    [customer.id, environment],
  );
  return rows.filter((row) => keys.includes(row.resource_key)).map((row) => row.id);
}
