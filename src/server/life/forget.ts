import { keptUntil } from '../../core/desktops';
import { systemScope } from '../access';
import type { App } from '../app';
import { forgetDetails } from '../customers';
import type { JobRun } from '../manifest';
import { planFactsOf } from '../plans';
import { write } from '../write';

/**
 * Deletes the data of those who left, once they were kept for as long as their plan promised: their people, and all that is
 * said of them but code, name and currency. What was done and what was charged stays: that is the MSP's own record.
 */
export async function forgetGone(app: App, { rooms }: Pick<JobRun, 'rooms'>): Promise<void> {
  const gone = await app.db.rows<{ id: string; code: string; retired_at: number }>(
    "SELECT id, code, retired_at FROM customer WHERE state = 'retired' AND data_deleted_at IS NULL",
  );
  for (const { retired_at, ...customer } of gone) {
    const scope = systemScope(customer);
    const { plan } = await planFactsOf(app.db, scope, retired_at);
    const now = app.clock.now();
    if (now < keptUntil(retired_at, plan)) continue;
    await write(app, scope, [{ table: 'customer', key: { id: customer.id } }], async (tx) => {
      // Whoever did it meanwhile has said so already.
      const isFirst = await forgetDetails(tx, scope, now);
      if (!isFirst) return;
      const counted: Record<string, number> = {};
      for (const { room, forgets } of rooms) {
        const gone = await forgets?.(tx, scope, now);
        if (typeof gone === 'number' && gone > 0) counted[room] = gone;
      }
      await tx.record({
        action: 'delete data',
        subject: customer.code,
        after: { ...counted, days: plan.retentionDays },
        topic: 'summary',
        id: customer.code,
      });
    });
  }
}
