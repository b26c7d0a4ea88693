import type { Retained } from '../../contract';
import type { RetainedResource } from '../../core/facts';
import type { Attributes } from '../../core/intent';
import type { CustomerScope } from '../access';
import type { App } from '../app';
import { raw, sql, type Connection, type Sql } from '../db';
import { UNSETTLED } from '../runs';

/** SQL: whether resource `r` was taken out of use and is kept for its data. */
export const IS_RETAINED = '(r.retained_until IS NOT NULL AND r.returned_at IS NOT NULL)';

/** SQL: whether what a provider's record says in row `p` is a resource that is retained: it belongs to no environment any more. */
export const RETAINED_IN_RECORD = `EXISTS (SELECT 1 FROM resource r WHERE r.customer_id = p.customer_id AND r.id = p.resource_id
  AND ${IS_RETAINED})`;

interface Row extends Omit<RetainedResource, 'attributes'> {
  readonly attributes: string;
  readonly environmentId: string;
  readonly environment: string;
  readonly there: number;
}

const rowsOf = (db: Connection, { customer }: CustomerScope, where: Sql): Promise<Row[]> =>
  db.rows<Row>(
    sql`SELECT r.id, r.kind, r.name, r.attributes, r.version, r.retained_until AS until, e.id AS environmentId,
          e.name AS environment, EXISTS (SELECT 1 FROM present_resource p WHERE p.customer_id = r.customer_id
            AND p.resource_id = r.id AND p.present_condition <> 'gone') AS there
        FROM resource r JOIN environment e ON (e.customer_id, e.id) = (r.customer_id, r.environment_id)
        WHERE r.customer_id = ${customer.id} AND ${raw(IS_RETAINED)} AND ${where} ORDER BY r.retained_until, r.id`,
  );

/** What is retained of an environment, as changes are proposed from it. */
export const retainedOf = async (
  db: Connection,
  scope: CustomerScope,
  environment: string,
): Promise<RetainedResource[]> =>
  (await rowsOf(db, scope, sql`r.environment_id = ${environment}`)).map(
    ({ id, kind, name, attributes, version, until }) => ({
      id,
      kind,
      name,
      attributes: JSON.parse(attributes) as Attributes,
      version,
      until,
    }),
  );

/** What is retained of an environment, by its provider's names, also what is yet to be taken out of use. */
export async function retainedRefs(
  db: Connection,
  { customer }: CustomerScope,
  environment: string,
): Promise<ReadonlySet<string>> {
  const rows = await db.rows<{ ref: string }>(
    sql`SELECT ref FROM resource WHERE customer_id = ${customer.id} AND environment_id = ${environment}
          AND retained_until IS NOT NULL AND ref IS NOT NULL`,
  );
  return new Set(rows.map(({ ref }) => ref));
}

/** Everything that is retained of a customer, with what it holds; what goes first comes first. */
export const listRetained = async ({ db, catalogue }: App, scope: CustomerScope): Promise<Retained[]> =>
  (await rowsOf(db, scope, sql`TRUE`)).map((row) => ({
    id: row.id,
    kind: row.kind,
    name: row.name,
    holds: [...(catalogue.kind(row.kind).holdsData?.(JSON.parse(row.attributes) as Attributes) ?? [])].join(
      ', ',
    ),
    environmentId: row.environmentId,
    environment: row.environment,
    until: row.until,
    there: row.there === 1,
  }));

/** Whose day has come, by customer and environment; what a run is at work on, or has failed to remove, is left to that run. */
export const overdue = (
  db: Connection,
  now: number,
): Promise<
  { readonly customer: string; readonly code: string; readonly environment: string; readonly id: string }[]
> =>
  db.rows(
    sql`SELECT r.customer_id AS customer, c.code, r.environment_id AS environment, r.id FROM resource r
          JOIN customer c ON c.id = r.customer_id
        WHERE r.retained_until <= ${now} AND ${raw(IS_RETAINED)} AND NOT ${raw(UNSETTLED)}
          AND NOT EXISTS (SELECT 1 FROM step s JOIN run u ON (u.customer_id, u.id) = (s.customer_id, s.run_id)
            WHERE s.customer_id = r.customer_id AND s.resource_id = r.id AND s.purpose = 'remove' AND u.state <> 'done')
        ORDER BY r.customer_id, r.environment_id, r.id LIMIT 2000`,
  );
