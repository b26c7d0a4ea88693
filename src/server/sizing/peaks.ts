import { HOUR, type Instant } from '../../core/calendar';
import type { CustomerScope } from '../access';
import type { App } from '../app';
import type { Connection } from '../db';

/** What was measured is kept so long. */
const KEPT_DAYS = 60;
const DAY = 24 * HOUR;

/** Notes how many are in now, by pool, where that is more than was noted in this hour. */
export async function notePeaks({ db, clock }: Pick<App, 'db' | 'clock'>): Promise<void> {
  const now = clock.now();
  const hour = now - (now % HOUR);
  await db.write(
    `INSERT INTO session_peak (customer_id, environment_id, pool, hour_at, most)
     SELECT r.customer_id, r.environment_id, SUBSTRING_INDEX(SUBSTRING_INDEX(r.resource_key, ':', 2), ':', -1), ?, COUNT(*)
     FROM session s JOIN resource r ON r.provider_code = s.provider_code AND r.ref = s.host_ref
       AND r.customer_id = s.customer_id AND r.environment_id IS NOT NULL AND r.returned_at IS NULL
     GROUP BY 1, 2, 3 ON DUPLICATE KEY UPDATE most = GREATEST(most, VALUES(most))`,
    [hour],
  );
  await db.write('DELETE FROM session_peak WHERE hour_at < ? LIMIT 5000', [now - KEPT_DAYS * DAY]);
}

export interface Peak {
  readonly environment: string;
  readonly pool: string;
  readonly at: Instant;
  readonly most: number;
}

/** What was measured of a customer's pools since an instant. */
export const peaksOf = (db: Connection, { customer }: CustomerScope, since: Instant): Promise<Peak[]> =>
  db.rows<Peak>(
    `SELECT environment_id AS environment, pool, hour_at AS at, most FROM session_peak
     WHERE customer_id = ? AND hour_at >= ? ORDER BY hour_at`,
    [customer.id, since],
  );
