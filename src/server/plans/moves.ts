import Joi from 'joi';
import type { Moves, MovesProposal } from '../../contract';
import { dearerFor, moveFindings, type Allowance, type PlanTerms } from '../../core/plans';
import { storedForm } from '../../core/stored';
import type { Rate } from '../../core/rating';
import { enter, reachable, type Scope } from '../access';
import type { App } from '../app';
import { sql } from '../db';
import { quantitiesOf } from '../metering';
import { ratesOf } from '../pricing';
import { createParent, type ParentKind } from '../parent-runs';
import { notFound, unusable } from '../problem';
import { write } from '../write';
import { countPeople, factsOf, heldBy, plannedOf } from './held';
import { moveToPlan, second } from './move';
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
 * Moves customers to a version of a plan, in a run over all of them, each in a transaction of its own. Who does not fit stays
 * where they are, and is named in it.
 * @throws Problem 404 when one of them is not in reach, 422 when they are counted otherwise: then nobody is moved
 */
export async function moveMany(
  app: App,
  scope: Scope,
  plan: string,
  { version, from, customers, count, reason, ...policy }: Moves,
): Promise<{ readonly run: string }> {
  if (count !== customers.length)
    throw unusable('count', `is not how many customers are named: those are ${customers.length}`);
  const now = app.clock.now();
  const target = (await planVersionsOf(app.db, plan)).find((one) => one.version === version);
  if (!target) throw unusable('version', 'is not known');
  if (from !== null && second(from) < second(now))
    throw unusable('from', 'is over: what was charged then stays charged');
  if (target.from > (from ?? now)) throw unusable('version', 'cannot be had then');
  const { request: _request, ...asking } = scope;
  const inside = await Promise.all(customers.map((code) => enter(app.db, asking, code)));
  const parts = inside.map((one) => ({ scope: one, about: target.name, input: { plan, version, from } }));
  const title = `Move ${customers.length === 1 ? '1 customer' : `${customers.length} customers`} to ${target.name} v${version}`;
  const over = { kind: moveEach, title, reason, policy, parts };
  return write(app, scope, [], async (tx) => ({ run: await createParent(tx, scope, over, now) }));
}

interface MoveInput {
  readonly plan: string;
  readonly version: number;
  readonly from: number | null;
}

/** Moves each of several customers to a version of a plan. */
export const moveEach: ParentKind<MoveInput> = {
  kind: 'move-to-plan',
  right: 'sell',
  form: storedForm({
    name: 'move to a plan',
    schema: Joi.object<MoveInput>({
      plan: Joi.string().required(),
      version: Joi.number().integer().required(),
      from: Joi.number().integer().allow(null).required(),
    }),
    upgrades: [],
  }),
  carryOut: async (app, scope, { plan, version, from }, { reason }) => {
    const { stay } = await heldBy(app.db, scope, from ?? app.clock.now());
    if (stay.plan === plan && stay.version === version) return { says: 'is on it' };
    await moveToPlan(app, scope, { plan, version, from, allowUntil: null, reason });
    return { says: `moved from ${stay.name} v${stay.version}` };
  },
};
