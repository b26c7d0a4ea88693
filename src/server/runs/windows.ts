import { windowAt } from '../../core/calendar';
import type { Policy } from '../../core/resources';
import { systemScope } from '../access';
import type { App } from '../app';
import { write } from '../write';

/** So many at a time: the others are next. */
const AT_ONCE = 200;

/** Runs whose window is over and that have not ended work in the next one. */
export async function nextWindows(app: App): Promise<void> {
  const now = app.clock.now();
  const over = await app.db.rows<{
    customer_id: string;
    code: string;
    zone: string;
    id: string;
    policy: string;
  }>(
    `SELECT r.customer_id, c.code, c.zone, r.id, r.policy FROM run r JOIN customer c ON c.id = r.customer_id
     WHERE r.works_until <= ? AND r.state <> 'done' LIMIT ${AT_ONCE}`,
    [now],
  );
  for (const { customer_id, code, zone, id, policy } of over) {
    const { window } = JSON.parse(policy) as Policy;
    const next = window && windowAt(window, now, zone);
    const scope = systemScope({ id: customer_id, code });
    await write(app, scope, [{ table: 'run', key: { customer_id, id } }], async (tx) => {
      await tx.write('UPDATE run SET works_from = ?, works_until = ? WHERE customer_id = ? AND id = ?', [
        next?.from ?? 0,
        next?.to ?? null,
        customer_id,
        id,
      ]);
      await tx.touch('run', id);
    });
  }
}
