import type { HostFacts } from '../../core/grants';
import { statusForComers } from '../../core/status';
import type { CustomerScope } from '../access';
import type { App } from '../app';
import { join, sql, type Connection } from '../db';
import type { KnownOffer } from '../grants';
import { CLOSED_BY_SIGN } from '../signs';

/** A host as somebody who arrives finds it. */
export interface DeskHost extends HostFacts {
  readonly id: string;
  readonly provider: string | null;
  readonly ref: string | null;
  readonly isOn: boolean;
  readonly wantedOn: boolean;
}

interface Row {
  readonly id: string;
  readonly environment_id: string;
  readonly pool: string;
  readonly name: string;
  readonly provider_code: string | null;
  readonly ref: string | null;
  readonly person: string | null;
  readonly person_id: string | null;
  readonly kept: string | null;
  readonly wanted_power: string | null;
  readonly wanted_accepting: string | null;
  readonly present_condition: string | null;
  readonly power: string | null;
  readonly accepting: string | null;
  readonly sessions: number;
  readonly arrivals: number;
  readonly seats: string | null;
  readonly is_closed: number;
}

export const keyOf = ({ environmentId, pool }: Pick<KnownOffer, 'environmentId' | 'pool'>): string =>
  `${environmentId} ${pool}`;

/**
 * The hosts of pools, by environment and pool, with those who are on the way there counted as in. Where nobody is to be
 * placed, like on one that is unwell or drained, the status says so.
 */
export async function hostsForPerson(
  app: App,
  scope: CustomerScope,
  offers: readonly KnownOffer[],
  db: Connection = app.db,
): Promise<Map<string, DeskHost[]>> {
  const found = new Map<string, DeskHost[]>(offers.map((one) => [keyOf(one), []]));
  if (offers.length === 0) return found;
  const rows = await db.rows<Row>(
    sql`SELECT r.id, r.environment_id, SUBSTRING(JSON_VALUE(r.attributes, '$.pool'), 6) AS pool, r.name, r.provider_code, r.ref,
          JSON_VALUE(r.attributes, '$.person') AS person, JSON_VALUE(r.attributes, '$.personId') AS person_id, JSON_VALUE(r.attributes, '$.kept') AS kept,
          JSON_VALUE(r.attributes, '$.power') AS wanted_power,
          JSON_VALUE(r.attributes, '$.accepting') AS wanted_accepting,
          p.present_condition, JSON_VALUE(p.attributes, '$.power') AS power,
          JSON_VALUE(p.attributes, '$.accepting') AS accepting,
          (SELECT COUNT(*) FROM session s WHERE s.customer_id = r.customer_id AND s.provider_code = r.provider_code
             AND s.host_ref = r.ref) AS sessions,
          (SELECT COUNT(*) FROM arrival a WHERE a.customer_id = r.customer_id AND a.host_id = r.id
             AND a.until_wall > ${app.clock.wall()} AND NOT EXISTS (SELECT 1 FROM session t
               WHERE t.customer_id = r.customer_id AND t.provider_code = r.provider_code AND t.host_ref = r.ref
                 AND t.account = a.account)) AS arrivals,
          ${CLOSED_BY_SIGN} AS is_closed,
          (SELECT JSON_VALUE(q.attributes, '$.seats') FROM resource q WHERE q.customer_id = r.customer_id
             AND q.environment_id = r.environment_id AND q.kind = 'pool' AND q.returned_at IS NULL
             AND q.resource_key = JSON_VALUE(r.attributes, '$.pool')) AS seats
        FROM resource r
        LEFT JOIN present_resource p ON p.customer_id = r.customer_id AND p.resource_id = r.id
          AND p.present_condition <> 'gone' AND p.ref = r.ref
        WHERE r.customer_id = ${scope.customer.id} AND r.kind = 'host' AND r.returned_at IS NULL AND r.wanted
          AND r.environment_id IN (${join([...new Set(offers.map((one) => one.environmentId))])})
        ORDER BY r.name`,
  );
  for (const row of rows) found.get(`${row.environment_id} ${row.pool}`)?.push(hostOf(row));
  return found;
}

function hostOf(row: Row): DeskHost {
  const { present_condition: condition } = row;
  const state = condition === 'well' ? (row.power ?? 'on') : condition;
  return {
    id: row.id,
    name: row.name,
    provider: row.provider_code,
    ref: row.ref,
    status: statusForComers({
      wantedPower: row.wanted_power === 'off' ? 'off' : 'on',
      wantedAccepting: !isFalse(row.wanted_accepting),
      leaving: false,
      making: 'no',
      present: state === null ? undefined : { state, accepting: !isFalse(row.accepting) },
      isClosed: row.is_closed === 1,
    }),
    isOn: state === 'on',
    wantedOn: row.wanted_power !== 'off',
    sessions: row.sessions + row.arrivals,
    seats: Number(row.seats ?? 0),
    // One that is somebody's whom nobody knows is not for whoever comes.
    ...((row.person ?? '') === '' ? {} : { personId: row.person_id ?? '' }),
    kept: row.kept !== null,
  };
}

/** MariaDB writes a JSON `false` as 0 or as `false`. */
const isFalse = (value: string | null): boolean => value === '0' || value === 'false';
