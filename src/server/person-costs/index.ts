import type { PersonCosts } from '../../contract';
import { partsOfPool, personTotal, type PoolMonth } from '../../core/rating';
import type { CustomerScope } from '../access';
import type { App } from '../app';
import { poolCharges, type PoolCharges } from '../costs';
import { ownedDesktops, type OwnedPart } from '../desktops';
import { seatHolders } from '../grants';
import { personById } from '../people';
import { notFound } from '../problem';
import { timeIn } from '../sessions';

/**
 * What somebody cost in the month that it is, up to now: their licence seats, their own desktops, and of what many share
 * a part by the time that they were in. @throws Problem 404
 */
export async function personCosts(app: App, scope: CustomerScope, id: string): Promise<PersonCosts> {
  if (!(await personById(app.db, scope, id))) throw notFound('person');
  const { month, currency, until, pools, weights } = await poolCharges(app, scope);
  const time = await timeIn(app.db, scope, { from: month.from, to: until });
  const seats = await seatHolders(app.db, scope);
  const owned = await ownedDesktops(app.db, scope);
  const parts: PersonCosts['parts'][number][] = [];
  for (const pool of pools) {
    const mine = owned.filter((one) => isOf(one, pool));
    const shared = partsOfPool(
      {
        pool: pool.pool,
        isPersonal: mine.length > 0,
        lines: pool.lines,
        seats: seats.filter((one) => isOf(one, pool)).map((one) => one.who),
        owned: mine.length > 0 ? weighed(mine, await weights(pool.environmentId)) : new Map(),
        time: new Map(time.filter((one) => isOf(one, pool)).map((one) => [one.who, one.seconds])),
      } satisfies PoolMonth,
      currency,
    );
    for (const part of shared.get(id) ?? [])
      parts.push({ environmentId: pool.environmentId, environment: pool.environment, ...part });
  }
  return { month: month.key, until, total: personTotal(parts, currency), parts };
}

interface InPool {
  readonly environmentId: string;
  readonly pool: string;
}

const isOf = (one: InPool, { environmentId, pool }: Pick<PoolCharges, 'environmentId' | 'pool'>): boolean =>
  one.environmentId === environmentId && one.pool === pool;

function weighed(owned: readonly OwnedPart[], weights: ReadonlyMap<string, number>): Map<string, number> {
  const by = new Map<string, number>();
  for (const { who, ref } of owned) by.set(who, (by.get(who) ?? 0) + (weights.get(ref) ?? 0));
  return by;
}
