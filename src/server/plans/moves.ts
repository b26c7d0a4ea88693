import type { Moved, Moves, MovesProposal } from '../../contract';
import { dearerFor, moveFindings, type Allowance, type PlanTerms } from '../../core/plans';
import type { Rate } from '../../core/rating';
import { enter, reachable, type Scope } from '../access';
import type { App } from '../app';
import { sql } from '../db';
import { quantitiesOf } from '../metering';
import { ratesOf } from '../pricing';
import { notFound, Problem, unusable } from '../problem';
import { countPeople, factsOf, heldBy, plannedOf } from './held';
import { moveToPlan } from './move';
import { newestAt, planNow, planVersionsOf } from './read';

interface Holder {
  readonly id: string;
  readonly code: string;
  readonly name: string;
  readonly currency: string;
  readonly card: string;
  readonly version: number;
}

/** Everyone in reach who is on another version of a plan, and what would come of moving each. @throws Problem 404, 422 */
export async function proposeMoves(
  app: App,
  scope: Scope,
  plan: string,
  wish: { readonly version?: number | undefined; readonly from?: number | undefined },
  now: number,
): Promise<MovesProposal> {
  const { db } = app;
  const from = wish.from ?? now;
  const versions = await planVersionsOf(db, plan);
  if (versions.length === 0) throw notFound('plan');
  const target =
    wish.version === undefined
      ? newestAt(versions, from)
      : versions.find((one) => one.version === wish.version && one.from <= from);
  if (!target) throw unusable('version', 'cannot be had then');
  const [holders, environments, people, quantities, allowances] = await Promise.all([
    db.rows<Holder>(
      sql`SELECT c.id, c.code, c.name, c.currency, c.card_code AS card, cp.version FROM customer c ${planNow(from)}
          WHERE ${reachable(scope, 'c.id')} AND c.kind = 'customer' AND c.state <> 'retired'
            AND cp.plan_code = ${plan} AND cp.version <> ${target.version} ORDER BY c.code`,
    ),
    plannedOf(db, scope),
    countPeople(db, scope),
    quantitiesOf(app, db, scope),
    db.rows<Allowance & { customer: string }>(
      sql`SELECT customer_id AS customer, limit_name AS \`limit\`, most, until_at AS \`until\` FROM allowance
          WHERE ${reachable(scope, 'customer_id')} AND until_at > ${from}`,
    ),
  ]);
  const rates = new Map<string, Rate[]>();
  for (const { card } of holders) if (!rates.has(card)) rates.set(card, await ratesOf(db, card));
  const termsOf = (version: number): PlanTerms =>
    versions.find((one) => one.version === version)?.terms ?? target.terms;
  return {
    version: target.version,
    from,
    customers: holders.map(({ id, code, name, currency, card, version }) => ({
      code,
      name,
      version,
      findings: moveFindings(
        environments.filter((one) => one.customer === id),
        people.get(id) ?? 0,
        factsOf(
          target,
          allowances.filter((one) => one.customer === id),
        ),
        from,
      ).map(({ says }) => says),
      monthly: dearerFor(
        { stands: quantities.get(id) ?? {}, rates: rates.get(card) ?? [], currency },
        termsOf(version),
        target.terms,
        from,
      ),
    })),
  };
}

/**
 * Moves customers to a version of a plan, each in a transaction of its own: sent again after it was cut off, it goes on
 * where it was. Who would not fit is left where they are, and named.
 * @throws Problem 404 when one of them is not in reach, 422 when they are counted otherwise: then nobody is moved
 */
export async function moveMany(app: App, asked: Scope, plan: string, moves: Moves): Promise<Moved> {
  // One key would stand for all of them.
  const { request: _request, ...scope } = asked;
  const { version, from, reason } = moves;
  if (moves.count !== moves.customers.length)
    throw unusable('count', `is not how many customers are named: those are ${moves.customers.length}`);
  const inside = await Promise.all(moves.customers.map((code) => enter(app.db, scope, code)));
  const moved: string[] = [];
  const left: { code: string; says: string }[] = [];
  for (const one of inside) {
    const { code } = one.customer;
    try {
      const { stay } = await heldBy(app.db, one, from ?? app.clock.now());
      if (stay.plan !== plan || stay.version !== version)
        await moveToPlan(app, one, { plan, version, from, allowUntil: null, reason });
      moved.push(code);
    } catch (error) {
      if (!(error instanceof Problem)) throw error;
      left.push({ code, says: Object.values(error.more.fields ?? {})[0] ?? error.detail });
    }
  }
  return { moved, left };
}
