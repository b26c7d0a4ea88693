import type { KnownResource } from '../../core/facts';
import type { Attributes } from '../../core/intent';
import type { CustomerScope } from '../access';
import type { Connection } from '../db';
import { AWAITED, UNSETTLED } from '../runs';
import type { FactReader, Subject } from './reader';

export const known: FactReader<'known'> = ({ connection, scope, subject }) =>
  knownResources(connection, scope, subject);

/** The environment's resources, and what the customer has at the site for all its environments. */
export async function knownResources(
  connection: Connection,
  scope: CustomerScope,
  { site, environment }: Pick<Subject, 'site' | 'environment'>,
): Promise<KnownResource[]> {
  const rows = await connection.rows<KnownRow>(
    `SELECT r.id, r.resource_key, r.kind, r.name, r.attributes, r.needs, r.version, r.wanted,
       ${UNSETTLED} AS unsettled, ${AWAITED} AS awaited,
       (SELECT COUNT(*) FROM session x WHERE x.customer_id = r.customer_id AND x.provider_code = r.provider_code
         AND x.host_ref = r.ref) AS people
     FROM resource r WHERE r.customer_id = ? AND r.returned_at IS NULL
       AND ((r.environment_id IS NULL AND r.site_code = ?) OR r.environment_id = ?) ORDER BY r.id`,
    [scope.customer.id, site, environment ?? ''],
  );
  return rows.map(readKnown);
}

/** A resource as its row tells it, with what is at work on it and who is in. */
export interface KnownRow {
  readonly id: string;
  readonly resource_key: string;
  readonly kind: string;
  readonly name: string;
  readonly attributes: string;
  readonly needs: string;
  readonly version: number;
  readonly wanted: number;
  readonly unsettled: number;
  readonly awaited: number;
  readonly people: number;
}

export function readKnown(row: KnownRow): KnownResource {
  return {
    id: row.id,
    key: row.resource_key,
    kind: row.kind,
    name: row.name,
    attributes: JSON.parse(row.attributes) as Attributes,
    needs: JSON.parse(row.needs) as string[],
    version: row.version,
    wanted: row.wanted === 1,
    unsettled: row.unsettled === 1,
    ...(row.awaited === 1 ? { awaited: true } : {}),
    people: row.people,
  };
}
