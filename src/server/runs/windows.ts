import { windowAt } from '../../core/calendar';
import type { Policy } from '../../core/resources';
import { systemScope } from '../access';
import type { App } from '../app';
import { write } from '../write';

/** So many at a time: the others are next. */
const AT_ONCE = 200;

interface Turning {
  readonly customer_id: string;
  readonly code: string;
  readonly zone: string;
  readonly id: string;
  readonly policy: string;
  readonly works_from: number;
  readonly works_until: number;
}

/** Runs whose window has come work; those whose window is over wait for the next one, as long as they have not ended. */
export async function turnWindows(app: App): Promise<void> {
  const now = app.clock.now();
  const turning = await app.db.rows<Turning>(
    `SELECT r.customer_id, c.code, c.zone, r.id, r.policy, r.works_from, r.works_until
     FROM run r JOIN customer c ON c.id = r.customer_id
     WHERE r.state <> 'done' AND (r.works_until <= ? OR (r.waits AND r.works_from <= ?)) LIMIT ${AT_ONCE}`,
    [now, now],
  );
  for (const run of turning) {
    const { customer_id, code, id } = run;
    const { from, to } =
      now < run.works_until ? { from: run.works_from, to: run.works_until } : next(run, now);
    const scope = systemScope({ id: customer_id, code });
    await write(app, scope, [{ table: 'run', key: { customer_id, id } }], async (tx) => {
      await tx.write(
        'UPDATE run SET works_from = ?, works_until = ?, waits = ? WHERE customer_id = ? AND id = ?',
        [from, to, from > now, customer_id, id],
      );
      await tx.touch('run', id);
    });
  }
}

/** Where there is none any more, it works at any time: what was begun is not left for ever. */
function next({ policy, zone }: Turning, now: number): { readonly from: number; readonly to: number | null } {
  const { window } = JSON.parse(policy) as Policy;
  return (window && windowAt(window, now, zone)) ?? { from: 0, to: null };
}
