import type { Look, LookMark } from '../../contract';
import { HOUR } from '../../core/calendar';
import { MSP, enter, isInside, type Scope } from '../access';
import type { App } from '../app';
import { sql } from '../db';
import { notFound, Problem } from '../problem';
import { write } from '../write';
import { watch } from './read';

export interface AskedMark {
  readonly key: string;
  readonly state: LookMark['state'] | 'open';
  readonly hours: number;
  readonly reason: string;
}

/** Something that needs a look among the customers in reach. @throws Problem 404 */
export async function lookOf(app: App, scope: Scope, key: string): Promise<Look> {
  const { looks } = await watch(app.db, scope, app.clock.now());
  const look = looks.find((one) => one.key === key);
  if (!look) throw notFound('look');
  return look;
}

/**
 * Says of something that needs a look that one is on it, that it can wait for a reason, or takes that back.
 * @throws Problem 404 when nothing of that key needs a look among the customers in reach, 422 without a reason
 */
export async function markLook(app: App, scope: Scope, asked: AskedMark): Promise<void> {
  const look = await lookOf(app, scope, asked.key);
  if (asked.state === 'put off' && asked.reason === '')
    throw new Problem(422, 'invalid', 'Say why it can wait.', { fields: { reason: 'say why it can wait' } });
  // On the trail of whose it is; what is no one customer's is the MSP's own.
  const inside = look.customer === null ? scope : await enter(app.db, scope, look.customer, true);
  const owner = isInside(inside) ? inside.customer : MSP;
  const now = app.clock.now();
  const until = now + asked.hours * HOUR;
  await write(app, inside, [], async (tx) => {
    await tx.write(sql`DELETE FROM look_mark WHERE customer_id = ${owner.id} AND look_key = ${asked.key}`);
    if (asked.state !== 'open')
      await tx.write(
        sql`INSERT INTO look_mark (customer_id, look_key, state, operator_id, at, until_at, reason)
            VALUES (${owner.id}, ${asked.key}, ${asked.state}, ${scope.actor.id}, ${now}, ${until}, ${asked.reason})`,
      );
    await tx.record({
      action: ACTIONS[asked.state],
      subject: look.says,
      ...(asked.state === 'open' ? {} : { after: { until } }),
      ...(asked.reason === '' ? {} : { reason: asked.reason }),
      topic: 'summary',
      id: owner.code,
    });
  });
}

const ACTIONS: Readonly<Record<AskedMark['state'], string>> = {
  taken: 'take on',
  'put off': 'put off',
  open: 'look again',
};

/** What was said holds no longer. */
export const forgetMarks = (app: App): Promise<number> =>
  app.db.write(sql`DELETE FROM look_mark WHERE until_at < ${app.clock.now()} LIMIT 5000`);
