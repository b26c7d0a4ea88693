import type { ChangedOperator } from '../../contract';
import type { Scope } from '../access';
import { conflict, unusable } from '../problem';
import { lockSetting } from '../settings';
import { write, type WriteHouse } from '../write';
import { isLead, refuseLastLead } from './leads';
import { operatorOf } from './read';
import { keepReach, reachFor, refuseBeyond } from './reach';

/**
 * Says otherwise what someone is here, whom they reach, and until when. Their open pages and streams follow within
 * seconds.
 * @throws Problem 404, 409 for oneself and for the last lead, 422 beside the field that cannot be used
 */
export const changeOperator = (
  house: WriteHouse,
  scope: Scope,
  id: string,
  { role, customers, endsAt }: ChangedOperator,
): Promise<void> =>
  write(house, scope, [], async (tx) => {
    const wall = house.clock.wall();
    // Written first: of two who take each other's role at once, one finds the other no lead any more.
    await lockSetting(tx, 'operators changed');
    const before = await operatorOf(tx, id, wall);
    await refuseBeyond(tx, scope, before);
    if (scope.actor.id === id) throw conflict('oneself', 'Another lead changes what you are here.');
    if (endsAt !== null && endsAt <= 0) throw unusable('endsAt', 'is no day');
    const stays = isLead(role) && (endsAt === null || endsAt > wall);
    if (!stays) await refuseLastLead(tx, id, wall);
    const reach = await reachFor(tx, scope, customers);
    await tx.write('UPDATE operator SET role = ?, reach = ?, ends_at = ? WHERE id = ?', [
      role,
      reach ? 'listed' : 'every',
      endsAt,
      id,
    ]);
    await keepReach(tx, id, reach);
    await tx.record({
      action: 'change operator',
      subject: before.name,
      before: { role: before.role, customers: before.customers ?? 'every', endsAt: before.endsAt },
      after: { role, customers: customers ?? 'every', endsAt },
      topic: 'ground',
      id,
    });
  });
