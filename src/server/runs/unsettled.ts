import { extraKey } from '../../core/planning';

/**
 * SQL: whether what is there of a resource `r` cannot be judged now, because a run is at work on it, or was until after
 * the provider's record of changes was last read to its end. What stands and is only waited with, until a run's window
 * comes, can be judged.
 */
export const UNSETTLED = `(
  EXISTS (SELECT 1 FROM step s JOIN run u ON (u.customer_id, u.id) = (s.customer_id, s.run_id)
    WHERE s.customer_id = r.customer_id AND s.resource_id = r.id AND s.state IN ('waiting','working')
      AND u.state IN ('running','stopping') AND NOT (u.waits AND s.state = 'waiting' AND r.ref IS NOT NULL))
  OR EXISTS (SELECT 1 FROM step s JOIN site t ON t.code = r.site_code JOIN provider p ON p.code = t.provider_code
    WHERE s.customer_id = r.customer_id AND s.resource_id = r.id AND s.ended_at > p.read_until))`;

/** SQL: whether something is to be done to a resource `r` once a run's window comes. */
export const AWAITED = `EXISTS (SELECT 1 FROM step s JOIN run u ON (u.customer_id, u.id) = (s.customer_id, s.run_id)
  WHERE s.customer_id = r.customer_id AND s.resource_id = r.id AND s.state = 'waiting' AND u.state = 'running' AND u.waits)`;

/** SQL: whether resource `r` is one that was asked for; what was found beside those is noted only while it is removed. */
export const ASKED_FOR = `r.resource_key NOT LIKE '${extraKey('%')}'`;
