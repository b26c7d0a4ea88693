import type { Period } from '../../core/calendar';
import type { Meter, Usage } from '../../core/rating';
import type { CustomerScope } from '../access';
import { IS_RETAINED } from '../retained';
import { empty, join, sql, type Connection, type Sql } from '../db';

export interface UsageQuestion {
  /** Stretches that do not overlap, none reaching beyond now. */
  readonly stretches: readonly Period[];
  readonly environmentId?: string;
}

interface Summed {
  readonly environment: string | null;
  readonly name: string;
  readonly meter: Meter;
  readonly size: string | null;
  readonly stretch: number;
  readonly amount: string;
}

/**
 * What a customer used, summed in the database: one row for each pool (or each resource), meter, size and stretch. An
 * amount is quantity × whole seconds. Hosts that were off are left out. `pool` of a row holds the environment's id and the
 * pool's name, or the ref where asked by resource.
 */
export async function usageBy(
  connection: Connection,
  scope: CustomerScope,
  by: 'pool' | 'resource',
  question: UsageQuestion,
): Promise<Usage[]> {
  if (question.stretches.length === 0) return [];
  const { stretches, environmentId } = question;
  // Said of the intervals themselves too, so that those of long ago are not even looked at.
  const earliest = Math.min(...stretches.map((one) => one.from));
  const latest = Math.max(...stretches.map((one) => one.to));
  const key =
    by === 'pool'
      ? sql`i.environment_id AS environment, i.pool AS name`
      : sql`NULL AS environment, i.ref AS name`;
  const narrow = environmentId === undefined ? empty : sql`AND i.environment_id = ${environmentId}`;
  const rows = await connection.rows<Summed>(
    sql`SELECT ${key}, i.meter, i.size, x.n AS stretch,
       SUM(i.quantity * ((LEAST(IFNULL(i.to_at, x.till), x.till) - GREATEST(i.from_at, x.since)) DIV 1000)) AS amount
     FROM meter_interval i JOIN (${stretchTable(stretches)}) x
       ON i.from_at < x.till AND (i.to_at IS NULL OR i.to_at > x.since)
     WHERE i.customer_id = ${scope.customer.id} AND i.from_at < ${latest} AND (i.to_at IS NULL OR i.to_at > ${earliest})
       AND (i.meter <> 'host' OR i.state = 'on') ${narrow}
     GROUP BY 1, 2, i.meter, i.size, x.n ORDER BY 1, 2, i.meter, i.size, x.n`,
  );
  return rows.flatMap((row) => {
    const stretch = question.stretches[row.stretch];
    return stretch
      ? [
          {
            pool: by === 'pool' ? `${row.environment ?? ''}/${row.name}` : row.name,
            meter: row.meter,
            size: row.size,
            stretch,
            amount: Number(row.amount),
          },
        ]
      : [];
  });
}

const stretchTable = (stretches: readonly Period[]): Sql =>
  join(
    stretches.map(({ from, to }, n) => sql`SELECT ${n} AS n, ${from} AS since, ${to} AS till`),
    ' UNION ALL ',
  );

/** Resources of an environment that are being metered at this moment. */
export async function openRefs(
  connection: Connection,
  scope: CustomerScope,
  environmentId: string,
): Promise<Set<string>> {
  const rows = await connection.rows<{ ref: string }>(
    `SELECT DISTINCT m.ref FROM meter_interval m WHERE m.customer_id = ? AND m.environment_id = ? AND m.to_at IS NULL
       AND NOT EXISTS (SELECT 1 FROM resource r WHERE r.customer_id = m.customer_id AND r.provider_code = m.provider_code
         AND r.ref = m.ref AND ${IS_RETAINED})`,
    [scope.customer.id, environmentId],
  );
  return new Set(rows.map((row) => row.ref));
}
