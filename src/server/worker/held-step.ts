import type { Instant } from '../../core/calendar';
import type { Policy, Purpose } from '../../core/resources';
import { MSP, type CustomerScope } from '../access';
import type { Connection } from '../db';
import type { EnvironmentNow, ResourceNow } from '../resources';

/** A step that this worker holds, under a lease with a fencing number. */
export interface HeldStep {
  readonly scope: CustomerScope;
  readonly id: string;
  readonly runId: string;
  readonly kind: string;
  readonly action: string;
  readonly purpose: Purpose;
  readonly subject: string;
  readonly resourceId: string | null;
  /** Which of several alike it is. */
  readonly part: number | null;
  readonly wantedVersion: number;
  readonly round: number;
  readonly attempt: number;
  readonly looks: number;
  readonly fence: number;
  readonly operation: string | null;
  readonly memo: string;
}

/** What a step's work is about, as it is wanted now. */
export interface StepPlace {
  readonly site: string;
  readonly policy: Policy;
  /** When the run’s window begins, by the customer’s clock, where that is yet to come. */
  readonly opens: { readonly at: Instant; readonly zone: string } | undefined;
  readonly environment: EnvironmentNow | undefined;
  readonly resource: ResourceNow | undefined;
  /** Whether a later run has the same action on the same resource before it. */
  readonly overtakenBy: string | undefined;
}

interface StoredResource {
  readonly id: string;
  readonly environment_id: string | null;
  readonly site_code: string;
  readonly resource_key: string;
  readonly kind: string;
  readonly name: string;
  readonly attributes: string;
  readonly wanted: number;
  readonly version: number;
  readonly round: number;
  readonly ref: string | null;
}

const RESOURCE = `SELECT id, environment_id, site_code, resource_key, kind, name, attributes, wanted, version, round, ref
  FROM resource`;

/** Where a step is done, read anew each time. @throws Error when its run is not there */
export async function placeOf(connection: Connection, step: HeldStep): Promise<StepPlace> {
  const customerId = step.scope.customer.id;
  const run = await connection.row<{
    policy: string;
    waits: number;
    works_from: number;
    zone: string;
    environment_id: string | null;
    name: string | null;
    site_code: string | null;
    template: string | null;
    people: number | null;
    realm: string;
  }>(
    `SELECT r.policy, r.waits, r.works_from, c.zone, e.id AS environment_id, e.name, e.site_code,
       IFNULL(CONCAT(e.template_code, ' revision ', e.revision), 'our own') AS template, e.people, c.realm
     FROM run r JOIN customer c ON c.id = r.customer_id
       LEFT JOIN environment e ON (e.customer_id, e.id) = (r.customer_id, r.environment_id)
     WHERE r.customer_id = ? AND r.id = ?`,
    [customerId, step.runId],
  );
  if (!run) throw new Error(`run ${step.runId} is not there`);
  const stored =
    step.resourceId === null
      ? undefined
      : await connection.row<StoredResource>(`${RESOURCE} WHERE customer_id = ? AND id = ?`, [
          customerId,
          step.resourceId,
        ]);
  const resource = stored && readResource(stored);
  return {
    site: stored?.site_code ?? run.site_code ?? '',
    policy: JSON.parse(run.policy) as Policy,
    opens: run.waits === 1 ? { at: run.works_from, zone: run.zone } : undefined,
    environment:
      run.environment_id === null
        ? undefined
        : {
            id: run.environment_id,
            name: run.name ?? '',
            template: run.template ?? '',
            people: run.people ?? 0,
            realm: run.realm,
          },
    resource,
    overtakenBy: resource && (await overtaker(connection, step, resource)),
  };
}

/**
 * What is wanted has changed since the run began: the last word wins. A step ends where it is not wanted any more that
 * it is done at all, or where a later run does the same as it is wanted now.
 */
async function overtaker(
  connection: Connection,
  step: HeldStep,
  resource: ResourceNow,
): Promise<string | undefined> {
  if (resource.version === step.wantedVersion) return undefined;
  if (step.purpose === 'remove' || step.purpose === 'retain')
    return resource.wanted ? 'it is wanted again' : undefined;
  if (!resource.wanted) return 'it is not wanted any more';
  const later = await connection.row<{ title: string }>(
    `SELECT r.title FROM step s JOIN run r ON (r.customer_id, r.id) = (s.customer_id, s.run_id)
     WHERE s.customer_id = ? AND s.resource_id = ? AND s.action = ? AND s.part <=> ? AND s.state = 'waiting' AND s.run_id > ?
       AND r.state = 'running' LIMIT 1`,
    [step.scope.customer.id, resource.id, step.action, step.part, step.runId],
  );
  return later && `"${later.title}" does it`;
}

/** Another resource of an environment, or one that the customer has at the site. */
export async function resourceByKey(
  connection: Connection,
  scope: CustomerScope,
  environmentId: string | undefined,
  key: string,
): Promise<ResourceNow | undefined> {
  const row = await connection.row<StoredResource>(
    `${RESOURCE} WHERE customer_id = ? AND resource_key = ? AND returned_at IS NULL
       AND (environment_id = ? OR environment_id IS NULL) LIMIT 1`,
    [scope.customer.id, key, environmentId ?? ''],
  );
  return row && readResource(row);
}

/** What the MSP has at a site for everyone. */
export async function ownResource(
  connection: Connection,
  site: string,
  key: string,
): Promise<ResourceNow | undefined> {
  const row = await connection.row<StoredResource>(
    `${RESOURCE} WHERE customer_id = ? AND site_code = ? AND resource_key = ? AND wanted AND returned_at IS NULL LIMIT 1`,
    [MSP.id, site, key],
  );
  return row && readResource(row);
}

const readResource = (row: StoredResource): ResourceNow => ({
  id: row.id,
  key: row.resource_key,
  kind: row.kind,
  name: row.name,
  attributes: JSON.parse(row.attributes) as ResourceNow['attributes'],
  wanted: row.wanted === 1,
  version: row.version,
  round: row.round,
  ref: row.ref,
  site: row.site_code,
  shared: row.environment_id === null,
});

/** This worker held a step for too long without saying so, and another one has it now. */
export class LeaseLost extends Error {}

/** Makes sure that this worker still holds a step, right before something outside is changed. @throws LeaseLost */
export async function stillHeld(connection: Connection, step: HeldStep, wall: number): Promise<void> {
  const row = await connection.row<{ fence: number; lease_wall: number; state: string }>(
    'SELECT fence, lease_wall, state FROM step WHERE customer_id = ? AND id = ?',
    [step.scope.customer.id, step.id],
  );
  if (row?.fence !== step.fence || row.state !== 'working' || row.lease_wall <= wall)
    throw new LeaseLost(`step ${step.id} is another worker's now`);
}
