import { notFound } from '../problem';
import { intentAt, newestIntent } from '../intents';
import type { FactReader } from './reader';

/** The environment as it is wanted; undefined: there is none yet. @throws Problem 404 */
export const environment: FactReader<'environment'> = async ({ connection, scope, subject }) => {
  const { environment: id, lookBackTo } = subject;
  if (id === undefined) return undefined;
  const row = await connection.row<{ version: number; wanted: 'serving' | 'retired'; shares: number }>(
    `SELECT e.version, e.wanted, EXISTS (SELECT 1 FROM environment o WHERE o.customer_id = e.customer_id
        AND o.site_code = e.site_code AND o.id <> e.id AND o.wanted = 'serving' AND o.holds <> 'image') AS shares
     FROM environment e WHERE e.customer_id = ? AND e.id = ?`,
    [scope.customer.id, id],
  );
  const intent = row && (await newestIntent(connection, scope, id));
  if (!intent) throw notFound('environment');
  const earlier = lookBackTo === undefined ? undefined : await intentAt(connection, scope, id, lookBackTo);
  return {
    id,
    version: row.version,
    wanted: row.wanted,
    intent,
    shares: row.shares === 1,
    ...(earlier ? { earlier } : {}),
  };
};
