import type { Move, MoveProposal } from '../../contract';
import { namesOfSizes } from '../../core/machines';
import { compareTerms, dearerBy, dearerFor, moveFindings, type MoveFinding } from '../../core/plans';
import type { CustomerScope } from '../access';
import type { App } from '../app';
import type { Connection } from '../db';
import { quantitiesOf } from '../metering';
import { ratesOf } from '../pricing';
import { notFound, Problem, unusable } from '../problem';
import { sizesOfSites } from '../sites';
import { write, type WriteHouse } from '../write';
import { allow, lockOf } from './allowances';
import { factsOf, heldBy, peopleOf, plannedOf, type Stay } from './held';
import { newestAt, planVersionsOf, type HeldTerms } from './read';

/** Metering knows whole seconds: a stay begins at one, so that no part of a second is charged twice or not at all. */
export const second = (at: number): number => Math.floor(at / 1_000) * 1_000;

/** Puts a new customer on a plan: the newest version that can be had. @throws Problem 422 beside `plan` */
export async function putOnPlan(
  tx: Connection,
  customerId: string,
  plan: string,
  now: number,
): Promise<Stay> {
  const versions = await planVersionsOf(tx, plan);
  const held = newestAt(versions, now);
  if (!held)
    throw unusable('plan', versions.length === 0 ? 'is not known' : 'cannot be had yet: it begins later');
  await tx.write('INSERT INTO customer_plan (customer_id, from_at, plan_code, version) VALUES (?, ?, ?, ?)', [
    customerId,
    second(now),
    plan,
    held.version,
  ]);
  return { plan, name: held.name, version: held.version, from: second(now) };
}

interface Wish {
  readonly plan: string;
  readonly version: number | null;
  readonly from: number | null;
}

interface Proposed {
  readonly target: HeldTerms;
  readonly from: number;
  readonly before: HeldTerms;
  readonly findings: readonly MoveFinding[];
  readonly currency: string;
  readonly card: string;
}

async function proposed(db: Connection, scope: CustomerScope, wish: Wish, now: number): Promise<Proposed> {
  const from = second(wish.from ?? now);
  if (from < second(now)) throw unusable('from', 'is over: what was charged then stays charged');
  const versions = await planVersionsOf(db, wish.plan);
  if (versions.length === 0) throw unusable('plan', 'is not known');
  const target =
    wish.version === null
      ? newestAt(versions, from)
      : versions.find((one) => one.version === wish.version && one.from <= from);
  if (!target) throw unusable('version', 'cannot be had then');
  const { held, stay, allowances } = await heldBy(db, scope, from);
  if (stay.plan === target.plan && stay.version === target.version)
    throw unusable('plan', 'is the one that they are on then');
  const row = await db.row<{ currency: string; card: string }>(
    'SELECT currency, card_code AS card FROM customer WHERE id = ?',
    [scope.customer.id],
  );
  if (!row) throw notFound('customer');
  const [environments, people] = [await plannedOf(db, scope), await peopleOf(db, scope)];
  return {
    target,
    from,
    before: held,
    findings: moveFindings(environments, people, factsOf(target, allowances), from),
    currency: row.currency,
    card: row.card,
  };
}

/** What would come of a move to another plan. @throws Problem 422 beside the field that cannot be used */
export async function proposeMove(
  app: App,
  scope: CustomerScope,
  wish: Wish,
  now: number,
): Promise<MoveProposal> {
  const { target, from, before, findings, currency, card } = await proposed(app.db, scope, wish, now);
  const sizes = await sizesOfSites(app.db);
  const stands = (await quantitiesOf(app, app.db, scope)).get(scope.customer.id) ?? {};
  const rates = await ratesOf(app.db, card);
  return {
    name: target.name,
    version: target.version,
    from,
    differences: compareTerms(before.terms, target.terms, namesOfSizes([...sizes.values()].flat())),
    findings: [...findings],
    monthly: dearerFor({ stands, rates, currency }, before.terms, target.terms, from),
  };
}

/**
 * Moves a customer to another plan. What the plan would not allow is in the way, unless its limits are raised for them in
 * the same breath.
 * @throws Problem 422 with the findings that are in the way
 */
export async function moveToPlan(house: WriteHouse, scope: CustomerScope, move: Move): Promise<Stay> {
  const now = house.clock.now();
  return write(house, scope, [lockOf(scope)], async (tx) => {
    const { target, from, before, findings, currency } = await proposed(tx, scope, move, now);
    if (dearerBy(before.terms.fees, target.terms.fees, currency) === null)
      throw unusable('plan', `is not sold in ${currency}`);
    if (move.allowUntil !== null && move.allowUntil <= from)
      throw unusable('allowUntil', 'has to be later than the move');
    const hard = findings.filter((one) => one.limit === undefined);
    if (hard.length > 0 || (findings.length > 0 && move.allowUntil === null))
      throw new Problem(422, 'plan', findings.map(({ says }) => says).join('; '), {
        fields: { plan: findings.map(({ says }) => says).join('; ') },
      });
    for (const { limit, amount } of findings)
      if (limit !== undefined && amount !== undefined && move.allowUntil !== null)
        await allow(tx, scope, house.clock.now(), {
          limit,
          most: amount,
          until: move.allowUntil,
          reason: move.reason === '' ? `moved to ${target.name}` : move.reason,
        });
    // A move that was planned for later, and comes after this one, is no longer what is wanted.
    await tx.write('DELETE FROM customer_plan WHERE customer_id = ? AND from_at >= ?', [
      scope.customer.id,
      from,
    ]);
    await tx.write(
      'INSERT INTO customer_plan (customer_id, from_at, plan_code, version) VALUES (?, ?, ?, ?)',
      [scope.customer.id, from, target.plan, target.version],
    );
    await tx.record({
      action: 'move to plan',
      subject: `${target.name} ${target.version}`,
      before: { plan: before.name, version: before.version },
      after: { plan: target.name, version: target.version, from },
      reason: move.reason,
      topic: 'summary',
      id: scope.customer.code,
    });
    return { plan: target.plan, name: target.name, version: target.version, from };
  });
}
