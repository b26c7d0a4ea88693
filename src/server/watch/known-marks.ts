import type { LookMark } from '../../contract';
import { MSP, reachable, type Scope } from '../access';
import { sql, type Connection } from '../db';

/** What was said, and holds still, of what needs a look: by its key. */
export async function lookMarks(db: Connection, scope: Scope, now: number): Promise<Map<string, LookMark>> {
  const rows = await db.rows<LookMark & { readonly look_key: string }>(
    sql`SELECT k.look_key, k.state, o.name AS \`by\`, k.at, k.until_at AS \`until\`, k.reason
        FROM look_mark k JOIN operator o ON o.id = k.operator_id
        WHERE k.until_at > ${now} AND (k.customer_id = ${MSP.id} OR ${reachable(scope, 'k.customer_id')})`,
  );
  return new Map(rows.map(({ look_key, ...mark }) => [look_key, mark]));
}
