import { keptUntil } from '../../core/desktops';
import { systemScope } from '../access';
import type { App } from '../app';
import { forgetDetails } from '../customers';
import { forgetOwners } from '../desktops';
import { forgetHolds } from '../holds';
import { forgetPeople } from '../people';
import { forgetLooksOf } from '../look-along';
import { forgetActsOf } from '../session-acts';
import { planFactsOf } from '../plans';
import { forgetPersons } from '../present';
import { forgetWhose } from '../runs';
import { forgetSizing } from '../sizing';
import { forgetTemplates } from '../templates';
import { write } from '../write';

/**
 * Deletes the data of those who left, once they were kept for as long as their plan promised: their people, and all that is
 * said of them but code, name and currency. What was done and what was charged stays: that is the MSP's own record.
 */
export async function forgetGone(app: App): Promise<void> {
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
      const people = await forgetPeople(tx, scope);
      await forgetActsOf(tx, scope);
      await forgetLooksOf(tx, scope);
      await forgetSizing(tx, scope);
      await forgetHolds(tx, scope);
      await forgetOwners(tx, scope);
      await forgetPersons(tx, scope);
      await forgetWhose(tx, scope);
      await forgetTemplates(tx, scope);
      await tx.record({
        action: 'delete data',
        subject: customer.code,
        after: { people, days: plan.retentionDays },
        topic: 'summary',
        id: customer.code,
      });
    });
  }
}
