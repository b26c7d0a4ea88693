import { systemScope } from '../access';
import type { App } from '../app';
import { markRetired } from '../customers';
import type { JobRun, Manifest } from '../manifest';
import { returnBlocks } from '../sites';
import { write } from '../write';

/** Retires those who leave and have nothing left: what they held is given back, and what they pay ends. */
export async function finishLeaving(app: App, { rooms }: Pick<JobRun, 'rooms'>): Promise<void> {
  const gone = await app.db.rows<{ id: string; code: string }>(
    `SELECT c.id, c.code FROM customer c WHERE c.state = 'leaving'
       AND NOT EXISTS (SELECT 1 FROM environment e WHERE e.customer_id = c.id AND e.retired_at IS NULL)
       AND NOT EXISTS (SELECT 1 FROM resource r WHERE r.customer_id = c.id AND r.returned_at IS NULL)`,
  );
  for (const customer of gone) await finish(app, rooms, customer);
}

async function finish(
  app: App,
  rooms: readonly Manifest[],
  customer: { readonly id: string; readonly code: string },
): Promise<void> {
  const now = Math.floor(app.clock.now() / 1_000) * 1_000;
  const { id, code } = customer;
  const scope = systemScope(customer);
  await write(app, scope, [{ table: 'customer', key: { id } }], async (tx) => {
    if (!(await markRetired(tx, scope, now))) return;
    const returned = await returnBlocks(tx, scope, now);
    // Nobody needs their keys and secrets any more.
    for (const { ends } of rooms) await ends?.(tx, scope, now);
    await tx.record({
      action: 'retire customer',
      subject: code,
      after: { returned },
      topic: 'summary',
      id: code,
    });
  });
}
