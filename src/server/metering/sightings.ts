import { meter, type Measure, type OpenInterval, type Sighting } from '../../core/metering';
import type { CustomerScope } from '../access';
import { insertMany, type Connection } from '../db';

export interface SightingOf {
  readonly ref: string;
  readonly environmentId: string;
  readonly poolId: string;
  readonly sighting: Sighting;
  readonly at: number;
}

interface StoredInterval extends Measure {
  readonly id: number;
  readonly from_at: number;
}

/** Brings a resource's intervals up to a sighting. Seeing the same again changes nothing. */
export async function readSightings(
  connection: Connection,
  scope: CustomerScope,
  seen: SightingOf,
): Promise<void> {
  const open = await connection.rows<StoredInterval>(
    `SELECT id, meter, state, size, quantity, from_at FROM meter_interval
     WHERE customer_id = ? AND ref = ? AND to_at IS NULL FOR UPDATE`,
    [scope.customer.id, seen.ref],
  );
  const move = meter(
    open.map((row): OpenInterval<number> => ({ ...row, from: row.from_at })),
    seen.sighting,
    seen.at,
  );
  for (const { id, to } of move.close)
    await connection.write('UPDATE meter_interval SET to_at = ? WHERE customer_id = ? AND id = ?', [
      to,
      scope.customer.id,
      id,
    ]);
  await insertMany(
    connection,
    'meter_interval',
    ['customer_id', 'environment_id', 'pool_id', 'ref', 'meter', 'state', 'size', 'quantity', 'from_at'],
    move.open.map((measure) => [
      scope.customer.id,
      seen.environmentId,
      seen.poolId,
      seen.ref,
      measure.meter,
      measure.state,
      measure.size,
      measure.quantity,
      measure.from,
    ]),
  );
}
