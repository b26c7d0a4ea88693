import type Joi from 'joi';
import { customerCode, id } from '../../contract';
import type { Condition } from '../../core/facts';
import type { Attributes } from '../../core/intent';
import type { Measure } from '../../core/metering';
import { MSP } from '../access';
import type { App } from '../app';
import { DatabaseError, type Connection } from '../db';
import { tell } from '../live';
import { keepIntervals } from '../metering';
import { ASKED_FOR } from '../runs';
import { markStale } from '../write';
import { noteOddity, type FeedPage, type PresentResource } from '../providers';

type Entry = FeedPage['entries'][number];

/** Whose a resource is; what matches nothing we know is the MSP's own. */
interface Owner {
  readonly customer: { readonly id: string; readonly code: string };
  readonly environmentId: string | null;
  readonly resourceId: string | null;
  readonly pool: string;
}

const ORPHAN: Owner = { customer: MSP, environmentId: null, resourceId: null, pool: '' };

/**
 * Takes in a page of a provider's record: what is there now, and the intervals of state that it makes. Done in the
 * transaction that moves the place in the record, so each entry counts once.
 */
export async function readFeed(
  app: App,
  connection: Connection,
  provider: string,
  page: FeedPage,
): Promise<void> {
  const changed = new Map<string, string>();
  const owners = new Map<string, Owner>();
  for (const entry of page.entries) {
    const { ref } = entry.present;
    const owner = owners.get(ref) ?? (await ownerFor(connection, provider, entry.present));
    owners.set(ref, owner);
    try {
      await keep(app, connection, provider, entry, owner);
    } catch (error) {
      // One entry that cannot be kept must not hold up all others, again and again.
      if (!(error instanceof DatabaseError) || !error.isOurFault) throw error;
      await noteOddity(
        { db: connection, clock: app.clock },
        provider,
        'entries ignored',
        `${ref} cannot be kept`,
      );
      app.log.error({ provider, ref, error: error.message }, 'an entry of a record was ignored');
      continue;
    }
    if (owner.customer.id !== MSP.id)
      changed.set(owner.environmentId ?? owner.customer.id, owner.customer.id);
  }
  await markStale(connection, changed.values());
  for (const [environmentId, customerId] of changed)
    await tell(connection, customerId, 'environment', environmentId, app.clock.wall());
}

/**
 * Whose a resource is and stays. Tags can be changed at the provider by whoever reaches it; that moves neither what
 * stands nor what it costs to another customer.
 */
async function ownerFor(connection: Connection, provider: string, present: PresentResource): Promise<Owner> {
  const owner = await ownerOf(connection, provider, present);
  const first = await connection.row<{ id: string; code: string; environment: string | null }>(
    `SELECT c.id, c.code, p.environment_id AS environment FROM present_resource p JOIN customer c ON c.id = p.customer_id
     WHERE p.provider_code = ? AND p.ref = ?`,
    [provider, present.ref],
  );
  if (!first || first.id === owner.customer.id) return owner;
  const { id, code, environment } = first;
  return { customer: { id, code }, environmentId: environment, resourceId: null, pool: '' };
}

/** What tags say of whose it is, as far as it can be ours: anybody at the provider may write anything there. */
function ownershipOf(tags: PresentResource['tags']): {
  readonly customer: string | undefined;
  readonly environment: string | undefined;
  readonly resource: string | undefined;
  readonly pool: string | undefined;
} {
  const fitting = (value: string | undefined, schema: Joi.Schema): string | undefined =>
    value !== undefined && schema.validate(value).error === undefined ? value : undefined;
  return {
    customer: fitting(tags.customer, customerCode),
    environment: fitting(tags.environment, id),
    resource: fitting(tags.resource, id),
    pool: tags.pool,
  };
}

/**
 * Whose a resource is: whose resource was noted with its name, else whose its tags say it is. An environment or a
 * resource that is not that customer's counts as none.
 */
async function ownerOf(connection: Connection, provider: string, present: PresentResource): Promise<Owner> {
  const { customer, environment, resource, pool } = ownershipOf(present.tags);
  const noted = await connection.row<{
    customer_id: string;
    code: string;
    environment_id: string | null;
    id: string;
    resource_key: string;
  }>(
    `SELECT r.customer_id, c.code, r.environment_id, r.id, r.resource_key
     FROM resource r JOIN customer c ON c.id = r.customer_id
     WHERE r.provider_code = ? AND r.ref = ? AND ${ASKED_FOR}`,
    [provider, present.ref],
  );
  if (noted)
    return {
      customer: { id: noted.customer_id, code: noted.code },
      environmentId: noted.environment_id,
      resourceId: noted.id,
      pool: noted.environment_id === null ? '' : (noted.resource_key.split(':')[1] ?? ''),
    };
  if (customer === undefined) return ORPHAN;
  const row = await connection.row<{
    id: string;
    code: string;
    environment: string | null;
    resource: string | null;
    of_environment: string | null;
  }>(
    `SELECT c.id, c.code, e.id AS environment, r.id AS resource, r.environment_id AS of_environment FROM customer c
       LEFT JOIN environment e ON e.customer_id = c.id AND e.id = ?
       LEFT JOIN resource r ON r.customer_id = c.id AND r.id = ? AND r.kind = ?
     WHERE c.code = ?`,
    [environment ?? '', resource ?? '', present.kind, customer],
  );
  if (!row) return ORPHAN;
  return {
    customer: { id: row.id, code: row.code },
    environmentId: row.of_environment ?? row.environment,
    resourceId: row.resource,
    pool: (pool ?? '').slice(0, 24),
  };
}

async function keep(
  app: App,
  connection: Connection,
  provider: string,
  { at, present }: Entry,
  owner: Owner,
): Promise<void> {
  const isGone = present.state === 'gone';
  const { condition, attributes } = app.catalogue.work(present.kind).read(present);
  await keepPresent(connection, provider, present, owner, isGone ? 'gone' : condition, attributes, at);
  const measures: Measure[] = isGone ? [] : measuresOf(app, present.kind, condition, attributes);
  await keepIntervals(connection, owner.customer, {
    provider,
    ref: present.ref,
    environmentId: owner.environmentId,
    pool: owner.pool,
    measures,
    at,
  });
}

/** What is there costs from its beginning. A host that is being built or is unwell counts as off: nobody can use it. */
function measuresOf(app: App, kind: string, condition: Condition, attributes: Attributes): Measure[] {
  const known = app.catalogue.kinds.find((one) => one.key === kind);
  if (!known) return [];
  const usable = condition === 'well' ? attributes : { ...attributes, power: 'off' };
  return known.meters(usable);
}

async function keepPresent(
  connection: Connection,
  provider: string,
  present: PresentResource,
  owner: Owner,
  condition: Condition | 'gone',
  attributes: Attributes,
  at: number,
): Promise<void> {
  await connection.write(
    `INSERT INTO present_resource (provider_code, ref, customer_id, environment_id, resource_id, kind, name, site_code,
       present_condition, attributes, provider_version, made_at, changed_at, gone_at)
     VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)
     ON DUPLICATE KEY UPDATE resource_id = VALUES(resource_id), name = IF(VALUES(name) = '', name, VALUES(name)),
       present_condition = VALUES(present_condition), attributes = VALUES(attributes),
       provider_version = VALUES(provider_version), changed_at = VALUES(changed_at), gone_at = VALUES(gone_at)`,
    [
      provider,
      present.ref,
      owner.customer.id,
      owner.environmentId,
      owner.resourceId,
      present.kind,
      present.name,
      present.site,
      condition,
      JSON.stringify(attributes),
      present.version,
      present.createdAt,
      at,
      present.goneAt,
    ],
  );
}
