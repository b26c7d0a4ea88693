import { insertMany, join, sql, type Connection } from '../db';
import { tell } from '../live';
import type { PresentSession } from '../providers';

interface Known {
  readonly customer_id: string;
  readonly id: string;
  readonly host_ref: string;
  readonly state: string;
}

/** Takes in who is signed in at a provider: what has changed since last read is written, and whom it concerns is told. */
export async function readSessions(
  connection: Connection,
  provider: string,
  present: readonly PresentSession[],
  wall: number,
): Promise<void> {
  const known = await connection.rows<Known>(
    'SELECT customer_id, id, host_ref, state FROM session WHERE provider_code = ?',
    [provider],
  );
  const hosts = await connection.rows<{ ref: string; customer_id: string }>(
    "SELECT ref, customer_id FROM present_resource WHERE provider_code = ? AND kind = 'host' AND present_condition <> 'gone'",
    [provider],
  );
  const customerOf = new Map(hosts.map((host) => [host.ref, host.customer_id]));
  const before = new Map(known.map((one) => [one.id, one]));
  const now = new Set(present.map((one) => one.id));
  const ended = known.filter((one) => !now.has(one.id));
  const changed = present.filter((one) => {
    const old = before.get(one.id);
    return customerOf.has(one.host) && (old?.state !== one.state || old.host_ref !== one.host);
  });
  for (let at = 0; at < ended.length; at += 500) {
    const ids = ended.slice(at, at + 500).map((one) => one.id);
    await connection.write(
      sql`DELETE FROM session WHERE provider_code = ${provider} AND id IN (${join(ids)})`,
    );
  }
  await insertMany(
    connection,
    'session',
    ['customer_id', 'id', 'provider_code', 'host_ref', 'account', 'state', 'since'],
    changed.map((one) => [
      customerOf.get(one.host) ?? '',
      one.id,
      provider,
      one.host,
      one.account,
      one.state,
      one.since,
    ]),
    'ON DUPLICATE KEY UPDATE host_ref = VALUES(host_ref), state = VALUES(state)',
  );
  const concerned = new Set([
    ...ended.map((one) => one.customer_id),
    ...changed.map((one) => customerOf.get(one.host) ?? ''),
  ]);
  for (const customerId of concerned) {
    await connection.write('UPDATE summary SET stale = TRUE WHERE customer_id = ?', [customerId]);
    await tell(connection, customerId, 'environment', customerId, wall);
  }
}
