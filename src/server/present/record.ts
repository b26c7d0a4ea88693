import type { CustomerScope } from '../access';
import { raw, sql, type Connection } from '../db';
import { RETAINED_IN_RECORD } from '../retained';

/** What a provider's record of changes says of something of a customer's, by the provider's name for it. */
export async function saidOf(
  db: Connection,
  { customer }: CustomerScope,
  provider: string,
  ref: string,
): Promise<'gone' | 'there' | undefined> {
  const row = await db.row<{ gone: number }>(
    sql`SELECT present_condition = 'gone' AS gone FROM present_resource
        WHERE customer_id = ${customer.id} AND provider_code = ${provider} AND ref = ${ref}`,
  );
  return row && (row.gone === 1 ? 'gone' : 'there');
}

/** How much of a resource, or of an environment, is there by the providers' records; without what is retained of that. */
export async function standingInRecord(
  db: Connection,
  { customer }: CustomerScope,
  of: { readonly resource: string } | { readonly environment: string },
): Promise<number> {
  const which =
    'resource' in of
      ? sql`p.resource_id = ${of.resource}`
      : sql`p.environment_id = ${of.environment} AND NOT ${raw(RETAINED_IN_RECORD)}`;
  const row = await db.row<{ n: number }>(
    sql`SELECT COUNT(*) AS n FROM present_resource p
        WHERE p.customer_id = ${customer.id} AND ${which} AND p.present_condition <> 'gone'`,
  );
  return row?.n ?? 0;
}
