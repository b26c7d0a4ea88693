import { extraKey } from '../../core/planning';

/**
 * SQL: whether what is there of a resource `r` cannot be judged now, because a run is at work on it, or was until after
 * the provider's record of changes was last read to its end.
 */
export const UNSETTLED = `(
  EXISTS (SELECT 1 FROM step s JOIN run u ON (u.customer_id, u.id) = (s.customer_id, s.run_id)
    WHERE s.customer_id = r.customer_id AND s.resource_id = r.id AND s.state IN ('waiting','working')
      AND u.state IN ('running','stopping'))
  OR EXISTS (SELECT 1 FROM step s JOIN site t ON t.code = r.site_code JOIN provider p ON p.code = t.provider_code
    WHERE s.customer_id = r.customer_id AND s.resource_id = r.id AND s.ended_at > p.read_until))`;

/** SQL: whether resource `r` is one that was asked for; what was found beside those is noted only while it is removed. */
export const ASKED_FOR = `r.resource_key NOT LIKE '${extraKey('%')}'`;
