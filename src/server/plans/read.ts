import type { Plan, PlanVersion } from '../../contract';
import type { PlanTerms } from '../../core/plans';
import { reachable, type Scope } from '../access';
import { sql, type Connection, type Sql } from '../db';

/**
 * Joins customers (`c`) with the plan (`p`) that each is on at an instant: that of the last stay (`cp`) that has begun, or
 * of the first that will.
 */
export const planNow = (now: number): Sql =>
  sql`JOIN customer_plan cp ON cp.customer_id = c.id AND cp.from_at = COALESCE(
        (SELECT MAX(x.from_at) FROM customer_plan x WHERE x.customer_id = c.id AND x.from_at <= ${now}),
        (SELECT MIN(x.from_at) FROM customer_plan x WHERE x.customer_id = c.id))
      JOIN plan p ON p.code = cp.plan_code`;

/** One version of a plan as it is kept. */
export interface HeldTerms {
  readonly plan: string;
  readonly name: string;
  readonly version: number;
  readonly from: number;
  readonly note: string;
  readonly terms: PlanTerms;
}

interface Stored extends Omit<HeldTerms, 'terms'> {
  readonly terms: string;
}

/** The versions of a plan, or of every plan; those of one plan with the newest first. */
export async function planVersionsOf(db: Connection, plan?: string): Promise<HeldTerms[]> {
  const which = plan === undefined ? sql`TRUE` : sql`p.code = ${plan}`;
  const rows = await db.rows<Stored>(
    sql`SELECT p.code AS plan, p.name, v.version, v.from_at AS \`from\`, v.note, v.terms
        FROM plan p JOIN plan_version v ON v.plan_code = p.code WHERE ${which} ORDER BY p.code, v.version DESC`,
  );
  return rows.map((row) => ({ ...row, terms: JSON.parse(row.terms) as PlanTerms }));
}

/** The newest version that can be had at an instant; undefined when there is none. */
export const newestAt = (versions: readonly HeldTerms[], at: number): HeldTerms | undefined =>
  versions
    .filter((one) => one.from <= at)
    .reduce<HeldTerms | undefined>(
      (best, one) => (best && best.version > one.version ? best : one),
      undefined,
    );

/** Every plan in all its versions, and which customers in reach are on each now. */
export async function listPlans(db: Connection, scope: Scope, now: number): Promise<Plan[]> {
  const versions = await planVersionsOf(db);
  const on = await db.rows<{ plan: string; version: number; code: string | null }>(
    sql`SELECT cp.plan_code AS plan, cp.version, IF(${reachable(scope, 'c.id')}, c.code, NULL) AS code
        FROM customer c ${planNow(now)} WHERE c.kind = 'customer' AND c.state <> 'retired' ORDER BY c.code`,
  );
  const viewOf = ({ plan, version, from, note, terms }: HeldTerms): PlanVersion => {
    const here = on.filter((one) => one.plan === plan && one.version === version);
    return {
      version,
      from,
      note,
      ...terms,
      customers: here.flatMap(({ code }) => code ?? []),
      others: here.filter(({ code }) => code === null).length,
    };
  };
  return [...new Set(versions.map((one) => one.plan))].map((code) => {
    const own = versions.filter((one) => one.plan === code);
    return { code, name: own[0]?.name ?? code, versions: own.map(viewOf) };
  });
}
