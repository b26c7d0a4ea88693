import type { ReadyHost } from '../../core/facts';
import { MSP } from '../access';
import { isReadyTaken } from '../claims';
import type { Connection } from '../db';

interface Row extends Omit<ReadyHost, 'diskGiB'> {
  readonly diskGiB: string;
}

const COLUMNS = `p.ref, p.name, p.size, JSON_VALUE(p.attributes, '$.image') AS image,
  JSON_VALUE(p.attributes, '$.diskGiB') AS diskGiB, p.node FROM present_resource p`;

/** Nobody has it yet: what was taken is allocated, from the moment in which that was begun. */
const FREE = `p.kind = 'host' AND p.present_condition = 'well'
  AND NOT EXISTS (SELECT 1 FROM allocation a WHERE ${isReadyTaken('p.site_code', 'p.ref')})`;

const read = (rows: readonly Row[]): ReadyHost[] =>
  rows.map((row) => ({ ...row, diskGiB: Number(row.diskGiB) }));

/** Hosts of the ready shelf at a site that are whole and that nobody has taken, the oldest first. */
export const readyAt = async (connection: Connection, site: string): Promise<ReadyHost[]> =>
  read(
    await connection.rows<Row>(
      `SELECT ${COLUMNS} JOIN resource r ON r.customer_id = p.customer_id AND r.id = p.resource_id AND r.returned_at IS NULL
         AND r.wanted AND r.ref = p.ref
       JOIN environment e ON e.customer_id = r.customer_id AND e.id = r.environment_id AND e.wanted = 'serving'
       WHERE p.customer_id = ? AND p.site_code = ? AND ${FREE}
         AND NOT EXISTS (SELECT 1 FROM step s WHERE s.customer_id = r.customer_id AND s.resource_id = r.id
           AND s.state IN ('waiting', 'working', 'failed'))
       ORDER BY p.made_at, p.ref`,
      [MSP.id, site],
    ),
  );

/** Servers at a site that nobody owns. */
export const straysOf = async (connection: Connection, site: string): Promise<ReadyHost[]> =>
  read(
    await connection.rows<Row>(
      `SELECT ${COLUMNS} WHERE p.customer_id = ? AND p.site_code = ? AND p.resource_id IS NULL AND ${FREE}
       ORDER BY p.made_at, p.ref`,
      [MSP.id, site],
    ),
  );
