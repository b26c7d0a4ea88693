import type { StepKind } from '../../core/proposal';
import type { CustomerScope } from '../access';
import type { Connection } from '../db';
import type { ResourceKind, Tags } from '../provider';

/** A step that this worker holds, under a lease with a fencing number. */
export interface Job {
  readonly scope: CustomerScope;
  readonly id: string;
  readonly runId: string;
  readonly kind: StepKind;
  readonly subject: string;
  readonly wantedId: string;
  readonly round: number;
  readonly attempt: number;
  readonly fence: number;
  readonly operation: string | null;
}

/** Where a job is done: its environment with what is wanted there. */
export interface Place {
  readonly environmentId: string;
  readonly environment: string;
  readonly site: string;
  readonly revision: string;
  readonly people: number;
  readonly realm: string;
  readonly networkId: string;
  readonly networkCidr: string;
  readonly poolId: string;
  readonly pool: string;
  readonly image: string;
  readonly size: string;
  readonly seats: number;
  readonly arrival: 'spread' | 'fill';
  readonly diskGiB: number;
  readonly subnet: string;
  readonly shareGiB: number;
  readonly items: readonly string[];
}

export async function placeOf(connection: Connection, job: Job): Promise<Place> {
  const row = await connection.row<Omit<Place, 'items'> & { items: string }>(
    `SELECT e.id AS environmentId, e.name AS environment, e.site_code AS site,
       CONCAT(e.template_code, ' revision ', e.revision) AS revision, e.people, c.realm,
       n.id AS networkId, n.cidr AS networkCidr, p.id AS poolId, p.name AS pool, p.image, p.size, p.seats, p.arrival,
       p.disk_gib AS diskGiB, p.subnet_cidr AS subnet, p.share_gib AS shareGiB, p.items
     FROM run r JOIN environment e ON (e.customer_id, e.id) = (r.customer_id, r.environment_id)
       JOIN customer c ON c.id = e.customer_id
       JOIN pool p ON (p.customer_id, p.environment_id) = (e.customer_id, e.id)
       JOIN network n ON (n.customer_id, n.id) = (p.customer_id, p.network_id)
     WHERE r.customer_id = ? AND r.id = ?`,
    [job.scope.customer.id, job.runId],
  );
  if (!row) throw new Error(`run ${job.runId} has no place`);
  return { ...row, items: (JSON.parse(row.items) as { name: string }[]).map((item) => item.name) };
}

/** Whose a resource is, for everyone who looks at the provider. */
export const tagsFor = (job: Job, place: Place): Tags => ({
  customer: job.scope.customer.code,
  environment: place.environmentId,
  pool: place.poolId,
  template: place.revision,
  run: job.runId,
  step: job.id,
  wanted: job.wantedId,
});

/** The provider's name for a wanted thing, when it was made. */
export async function refOf(
  connection: Connection,
  scope: CustomerScope,
  kind: ResourceKind,
  wantedId: string,
): Promise<string | undefined> {
  const row = await connection.row<{ ref: string }>(
    'SELECT ref FROM link WHERE customer_id = ? AND kind = ? AND wanted_id = ? ORDER BY id DESC LIMIT 1',
    [scope.customer.id, kind, wantedId],
  );
  return row?.ref;
}
