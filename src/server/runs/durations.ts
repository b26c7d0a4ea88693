import { durationKey, durationOf, type Durations } from '../../core/durations';
import type { App } from '../app';
import { insertMany, transaction, type Connection } from '../db';

/** So many of the last steps are looked at. */
const LOOKED_AT = 20_000;

/** Learns how long each kind of step takes at each site, from the last that were done. */
export async function learnDurations({ db }: Pick<App, 'db'>): Promise<void> {
  const rows = await db.rows<{
    site: string;
    kind: string;
    action: string;
    size: string | null;
    seconds: string;
  }>(
    `SELECT r.site_code AS site, s.kind, s.action, JSON_VALUE(r.attributes, '$.size') AS size,
       (s.ended_at - s.began_at) / 1000 AS seconds
     FROM (SELECT * FROM step ORDER BY id DESC LIMIT ${LOOKED_AT}) s
       JOIN resource r ON r.customer_id = s.customer_id AND r.id = s.resource_id
     WHERE s.state = 'done' AND s.began_at IS NOT NULL AND s.ended_at >= s.began_at`,
  );
  const found = new Map<string, { site: string; key: string; seconds: number[] }>();
  for (const { site, kind, action, size, seconds } of rows) {
    const key = durationKey(kind, action, size);
    const one = found.get(`${site} ${key}`) ?? { site, key, seconds: [] };
    one.seconds.push(Number(seconds));
    found.set(`${site} ${key}`, one);
  }
  const learnt = [...found.values()].flatMap(({ site, key, seconds }) => {
    const duration = durationOf(seconds);
    return duration ? [[site, key, duration.count, duration.median, duration.late]] : [];
  });
  await transaction(db, async (connection) => {
    await insertMany(
      connection,
      'step_time',
      ['site_code', 'step_key', 'times', 'median', 'late'],
      learnt,
      'ON DUPLICATE KEY UPDATE times = VALUES(times), median = VALUES(median), late = VALUES(late)',
    );
  });
}

/** How long steps have taken at a site. */
export async function durationsAt(connection: Connection, site: string): Promise<Durations> {
  const rows = await connection.rows<{ step_key: string; times: number; median: string; late: string }>(
    'SELECT step_key, times, median, late FROM step_time WHERE site_code = ?',
    [site],
  );
  return Object.fromEntries(
    rows.map((row) => [
      row.step_key,
      { count: row.times, median: Number(row.median), late: Number(row.late) },
    ]),
  );
}
