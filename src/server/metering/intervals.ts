import { meter, type Measure, type OpenInterval } from '../../core/metering';
import type { CustomerScope } from '../access';
import { insertMany, type Connection } from '../db';

/** What a resource is metered as from an instant on; none: nothing any more. */
export interface Metered {
  readonly provider: string;
  readonly ref: string;
  readonly environmentId: string | null;
  readonly pool: string;
  readonly measures: readonly Measure[];
  readonly at: number;
}

/** A stretch of time that is over, as a resource was metered. */
export interface PastInterval extends Measure {
  readonly provider: string;
  readonly ref: string;
  readonly environmentId: string | null;
  readonly pool: string;
  readonly from: number;
  readonly to: number;
}

const COLUMNS = [
  'customer_id',
  'environment_id',
  'pool',
  'provider_code',
  'ref',
  'meter',
  'state',
  'size',
  'quantity',
  'from_at',
] as const;

/** Adds a past that nothing else tells: of resources that are noted as present, before they were first read. */
export const addIntervals = (
  connection: Connection,
  customer: CustomerScope['customer'],
  past: readonly PastInterval[],
): Promise<void> =>
  insertMany(
    connection,
    'meter_interval',
    [...COLUMNS, 'to_at'],
    past.map((one) => [
      customer.id,
      one.environmentId,
      one.pool,
      one.provider,
      one.ref,
      one.meter,
      one.state,
      one.size,
      one.quantity,
      one.from,
      one.to,
    ]),
  );

interface StoredInterval extends Measure {
  readonly id: number;
  readonly from_at: number;
}

/** Brings a resource's intervals up to what it is metered as. The same again changes nothing. */
export async function keepIntervals(
  connection: Connection,
  customer: CustomerScope['customer'],
  seen: Metered,
): Promise<void> {
  const open = await connection.rows<StoredInterval>(
    `SELECT id, meter, state, size, quantity, from_at FROM meter_interval
     WHERE customer_id = ? AND provider_code = ? AND ref = ? AND to_at IS NULL FOR UPDATE`,
    [customer.id, seen.provider, seen.ref],
  );
  const last = await connection.row<{ known: number | null }>(
    `SELECT MAX(IFNULL(to_at, from_at)) AS known FROM meter_interval
     WHERE customer_id = ? AND provider_code = ? AND ref = ?`,
    [customer.id, seen.provider, seen.ref],
  );
  const move = meter(
    open.map((row): OpenInterval<number> => ({ ...row, from: row.from_at })),
    seen.measures,
    seen.at,
    last?.known ?? 0,
  );
  for (const { id, to } of move.close)
    await connection.write('UPDATE meter_interval SET to_at = ? WHERE customer_id = ? AND id = ?', [
      to,
      customer.id,
      id,
    ]);
  await insertMany(
    connection,
    'meter_interval',
    COLUMNS,
    move.open.map((measure) => [
      customer.id,
      seen.environmentId,
      seen.pool,
      seen.provider,
      seen.ref,
      measure.meter,
      measure.state,
      measure.size,
      measure.quantity,
      measure.from,
    ]),
  );
}
