import type { CustomerPlan } from '../../contract';
import {
  moveFindings,
  planReminders,
  takenTogether,
  type Allowance,
  type PlanFacts,
  type PlannedEnvironment,
} from '../../core/plans';
import { MSP, within, type CustomerScope, type Scope } from '../access';
import { sql, type Connection } from '../db';
import { notFound } from '../problem';
import { sizesOfSites } from '../sites';
import { planVersionsOf, type HeldTerms } from './read';
import { intentsWhere } from '../intents';

export interface Stay {
  readonly plan: string;
  readonly name: string;
  readonly version: number;
  readonly from: number;
}

/** The plans that a customer was on, is on and will be on, in order of time. */
const staysOf = (db: Connection, { customer }: CustomerScope): Promise<Stay[]> =>
  db.rows<Stay>(
    `SELECT s.plan_code AS plan, p.name, s.version, s.from_at AS \`from\`
     FROM customer_plan s JOIN plan p ON p.code = s.plan_code WHERE s.customer_id = ? ORDER BY s.from_at`,
    [customer.id],
  );

/** The stay that holds at an instant: the last that has begun, or the first that will. */
const stayAt = (stays: readonly Stay[], at: number): Stay | undefined =>
  stays.filter((one) => one.from <= at).at(-1) ?? stays[0];

interface Held {
  readonly stays: readonly Stay[];
  readonly stay: Stay;
  readonly held: HeldTerms;
  readonly allowances: CustomerPlan['allowances'];
}

/** @throws Problem 404 when the customer is not there */
export async function heldBy(db: Connection, scope: CustomerScope, now: number): Promise<Held> {
  const stays = await staysOf(db, scope);
  const stay = stayAt(stays, now);
  const versions = stay ? await planVersionsOf(db, stay.plan) : [];
  const held = versions.find((one) => one.version === stay?.version);
  if (!stay || !held) throw notFound('customer');
  const allowances = await db.rows<CustomerPlan['allowances'][number]>(
    `SELECT id, limit_name AS \`limit\`, most, until_at AS \`until\`, reason, actor, made_at AS madeAt
     FROM allowance WHERE customer_id = ? AND until_at > ? ORDER BY until_at, id`,
    [scope.customer.id, now],
  );
  return { stays, stay, held, allowances };
}

export const factsOf = (held: HeldTerms, allowances: readonly Allowance[]): PlanFacts => ({
  name: held.name,
  ...held.terms,
  allowances: allowances.map(({ limit, most, until }) => ({ limit, most, until })),
});

/** What environments are wanted to be now, each with the sizes of its site and the id of its customer. */
export async function plannedOf(
  db: Connection,
  scope: Scope | CustomerScope,
): Promise<(PlannedEnvironment & { readonly customer: string })[]> {
  const planned = await intentsWhere(db, sql`${within(scope, 'e.customer_id')} AND e.wanted = 'serving'`);
  const sizes = await sizesOfSites(db);
  return planned.map(({ customer, intent, site }) => ({
    customer: customer.id,
    intent,
    sizes: sizes.get(site) ?? [],
  }));
}

/** How many people each customer's directory has, by its id; who has none is not there. */
export async function countPeople(
  db: Connection,
  scope: Scope | CustomerScope,
): Promise<Map<string, number>> {
  const rows = await db.rows<{ customer_id: string; people: number }>(
    sql`SELECT customer_id, COUNT(*) AS people FROM person
        WHERE left_at IS NULL AND ${within(scope, 'customer_id')} GROUP BY customer_id`,
  );
  return new Map(rows.map((row) => [row.customer_id, row.people]));
}

export const peopleOf = async (db: Connection, scope: CustomerScope): Promise<number> =>
  (await countPeople(db, scope)).get(scope.customer.id) ?? 0;

/** A customer's plan as it holds now, and what its environments take of it together. */
export async function planFactsOf(
  db: Connection,
  scope: CustomerScope,
  now: number,
): Promise<{ plan: PlanFacts; takes: ReturnType<typeof takenTogether> }> {
  const { held, allowances } = await heldBy(db, scope, now);
  return {
    plan: factsOf(held, allowances),
    takes: takenTogether(await plannedOf(db, scope), await peopleOf(db, scope)),
  };
}

/** What the customer's plan promises of data that nobody uses any more. The MSP promises itself nothing. */
export const promisedTo = async (
  db: Connection,
  scope: CustomerScope,
  now: number,
): Promise<Pick<PlanFacts, 'retentionDays'>> => {
  if (scope.customer.id === MSP.id) return { retentionDays: 0 };
  const { held, allowances } = await heldBy(db, scope, now);
  return factsOf(held, allowances);
};

/** A customer's plan, what of it is taken, and what was allowed beyond it. */
export async function customerPlan(db: Connection, scope: CustomerScope, now: number): Promise<CustomerPlan> {
  const { stays, stay, held, allowances } = await heldBy(db, scope, now);
  const [environments, people] = [await plannedOf(db, scope), await peopleOf(db, scope)];
  return {
    ...stay,
    ...held.terms,
    takes: takenTogether(environments, people),
    allowances,
    beyond: moveFindings(environments, people, factsOf(held, allowances), now).map(({ says }) => says),
    stays: [...stays],
  };
}

/** What of a customer's plan someone should look at. */
export async function beyondPlan(db: Connection, scope: CustomerScope, now: number): Promise<string[]> {
  const { held, allowances } = await heldBy(db, scope, now);
  return planReminders(await plannedOf(db, scope), await peopleOf(db, scope), factsOf(held, allowances), now);
}
