import type { CustomerScope } from '../access';
import type { App } from '../app';
import { giveBackAll } from '../claims';
import { join, raw, sql } from '../db';
import { ASKED_FOR, endRunsOf } from '../runs';
import { write } from '../write';

/** The computer names that an environment has or had, in order. */
export async function namesOfEnvironment(app: App, scope: CustomerScope, id: string): Promise<string[]> {
  const carrying = app.catalogue.kinds
    .filter((kind) => kind.carriesSessions === true)
    .map((kind) => kind.key);
  const rows = await app.db.rows<{ name: string }>(
    sql`SELECT DISTINCT r.name FROM resource r WHERE r.customer_id = ${scope.customer.id} AND r.environment_id = ${id}
       AND ${raw(ASKED_FOR)} AND r.kind IN (${join(carrying)}) ORDER BY r.name`,
  );
  return rows.map((row) => row.name);
}

/** Ends an environment that nothing is left of: whatever was still held for it is given back, and no run waits for it. */
export async function endEnvironment(app: App, scope: CustomerScope, id: string): Promise<void> {
  const now = app.clock.now();
  const own = [scope.customer.id, id];
  await write(
    app,
    scope,
    [{ table: 'environment', key: { customer_id: scope.customer.id, id } }],
    async (tx) => {
      await giveBackAll(tx, scope, id);
      await tx.write(
        'UPDATE resource SET returned_at = ?, wanted = FALSE WHERE customer_id = ? AND environment_id = ? AND returned_at IS NULL',
        [now, ...own],
      );
      await tx.write(
        'UPDATE environment SET retired_at = ? WHERE customer_id = ? AND id = ? AND retired_at IS NULL',
        [now, ...own],
      );
      await endRunsOf(tx, scope, id, now);
      await tx.touch('environment', id);
    },
  );
}
