import type { Intent } from '../intent';
import { addAmounts, limitsPassed, takenBy } from './use';
import { NO_AMOUNTS, type Amounts, type Limit, type PlanFacts } from './terms';
import type { MachineSize } from '../machines';

/** An environment of a customer, as far as a plan goes. */
export interface PlannedEnvironment {
  readonly intent: Intent;
  readonly sizes: readonly MachineSize[];
}

/** Something of a customer that a plan does not allow. */
export interface MoveFinding {
  readonly says: string;
  /** The limit that is passed, and by what amount: it can be raised for a while. Undefined: it cannot. */
  readonly limit?: Limit;
  readonly amount?: number;
}

/** What all of a customer's environments take together; its people are those in its directory. */
export const takenTogether = (environments: readonly PlannedEnvironment[], people: number): Amounts => ({
  ...environments.reduce((sum, { intent, sizes }) => addAmounts(sum, takenBy(intent, sizes)), NO_AMOUNTS),
  people,
});

/** What a customer has that a plan, were they on it, would not allow: limits passed, sizes and sites that it has not. */
export function moveFindings(
  environments: readonly PlannedEnvironment[],
  people: number,
  plan: PlanFacts,
  now: number,
): MoveFinding[] {
  const findings: MoveFinding[] = limitsPassed(takenTogether(environments, people), plan, now).map(
    ({ says, limit, amount }) => ({ says, limit, amount }),
  );
  for (const { intent } of environments) {
    if (plan.sites.length > 0 && !plan.sites.includes(intent.site))
      findings.push({ says: `${intent.name} stands at ${intent.site}; plan ${plan.name} has no such site` });
    const sizes = new Set(intent.pools.flatMap((pool) => pool.hosts.map((host) => host.size ?? pool.size)));
    for (const size of sizes)
      if (plan.sizes.length > 0 && !plan.sizes.includes(size))
        findings.push({ says: `${intent.name} has hosts of ${size}; plan ${plan.name} has no such size` });
  }
  return findings;
}
