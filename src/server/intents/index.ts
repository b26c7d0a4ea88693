import type { Intent } from '../../core/intent';
import type { CustomerScope } from '../access';
import { sql, type Connection, type Sql } from '../db';
import type { Tx } from '../write';
import { intentForm } from './form';

/* What environments should be: the only room that reads and writes their documents. */

/** What an environment should be by now, with whose it is. */
export interface EnvironmentIntent {
  readonly customer: { readonly id: string; readonly code: string; readonly state: string };
  readonly environment: string;
  readonly name: string;
  readonly site: string;
  readonly version: number;
  readonly intent: Intent;
}

/**
 * The newest intents of the environments that are chosen, by name. Retired ones keep the last that they had.
 * @param which a condition over `e`, the environment, `c`, its customer, and `i.document`
 */
export async function intentsWhere(db: Connection, which: Sql): Promise<EnvironmentIntent[]> {
  const rows = await db.rows<{
    customer_id: string;
    code: string;
    state: string;
    id: string;
    name: string;
    site_code: string;
    version: number;
    document: string;
  }>(
    sql`SELECT c.id AS customer_id, c.code, c.state, e.id, e.name, e.site_code, e.version, i.document
        FROM environment e JOIN customer c ON c.id = e.customer_id
          JOIN intent i ON (i.customer_id, i.environment_id) = (e.customer_id, e.id) AND i.version =
            (SELECT MAX(x.version) FROM intent x WHERE (x.customer_id, x.environment_id) = (e.customer_id, e.id))
        WHERE ${which} ORDER BY e.name, e.id`,
  );
  return rows.map((row) => ({
    customer: { id: row.customer_id, code: row.code, state: row.state },
    environment: row.id,
    name: row.name,
    site: row.site_code,
    version: row.version,
    intent: intentForm.read(row.document),
  }));
}

/**
 * SQL: the newest intent of an environment, for a statement that reads more. Read it with `readIntent`.
 * @param customer SQL of its customer's id
 * @param environment SQL of its id
 */
export const intentJson = (customer: Sql, environment: Sql): Sql =>
  sql`(SELECT i.document FROM intent i WHERE i.customer_id = ${customer} AND i.environment_id = ${environment}
    ORDER BY i.version DESC LIMIT 1)`;

export const readIntent = (document: string): Intent => intentForm.read(document);

/** The newest intent of an environment; undefined: it is not one of the customer's. */
export async function newestIntent(
  db: Connection,
  { customer }: CustomerScope,
  environment: string,
): Promise<Intent | undefined> {
  const row = await db.row<{ document: string }>(
    'SELECT document FROM intent WHERE customer_id = ? AND environment_id = ? ORDER BY version DESC LIMIT 1',
    [customer.id, environment],
  );
  return row && intentForm.read(row.document);
}

/** What an environment should have been at a version; undefined: there is no such version. */
export async function intentAt(
  db: Connection,
  { customer }: CustomerScope,
  environment: string,
  version: number,
): Promise<Intent | undefined> {
  const row = await db.row<{ document: string }>(
    'SELECT document FROM intent WHERE customer_id = ? AND environment_id = ? AND version = ?',
    [customer.id, environment, version],
  );
  return row && intentForm.read(row.document);
}

/** Keeps what an environment should be from now on, as its next version. The caller holds the environment's lock. */
export const keepIntent = (
  tx: Tx,
  { customer }: CustomerScope,
  environment: string,
  version: number,
  intent: Intent,
  now: number,
): Promise<unknown> =>
  tx.write(
    'INSERT INTO intent (customer_id, environment_id, version, document, created_at) VALUES (?, ?, ?, ?, ?)',
    [customer.id, environment, version, intentForm.write(intent), now],
  );

/** Edits every version of every intent of a customer, for what must not be kept any longer. */
export async function rewriteIntents(
  tx: Connection,
  { customer }: CustomerScope,
  edit: (intent: Intent) => Intent,
): Promise<void> {
  const intents = await tx.rows<{ environment_id: string; version: number; document: string }>(
    'SELECT environment_id, version, document FROM intent WHERE customer_id = ?',
    [customer.id],
  );
  for (const { environment_id, version, document } of intents) {
    const edited = intentForm.write(edit(intentForm.read(document)));
    if (edited !== document)
      await tx.write(
        'UPDATE intent SET document = ? WHERE customer_id = ? AND environment_id = ? AND version = ?',
        [edited, customer.id, environment_id, version],
      );
  }
}
