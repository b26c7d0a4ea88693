import { sql } from '../db';

/** Joins a session `s` with the person `p` whose it is: who has its account, unless it began while somebody else had it. */
export const WHOSE_SESSION = sql`p.customer_id = s.customer_id AND p.held_account = s.account AND p.account_since <= s.since`;

/** The same for one that may be over: it may be of somebody who left since. */
export const WHOSE_PAST = sql`p.customer_id = s.customer_id AND p.account = s.account AND p.account_since <= s.since
  AND (p.left_at IS NULL OR s.since < p.left_at)`;
