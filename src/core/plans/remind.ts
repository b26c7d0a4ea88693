import { DAY, type Instant } from '../calendar';
import { moveFindings, type PlannedEnvironment } from './move';
import { LIMIT_WORDS, type PlanFacts } from './terms';

/** So long before its end one is reminded of what was allowed. */
const REMINDED = 14 * DAY;

/** What of a customer's plan someone should look at: what is beyond it, and what is allowed for a while yet only. */
export function planReminders(
  environments: readonly PlannedEnvironment[],
  people: number,
  plan: PlanFacts,
  now: Instant,
): string[] {
  const bare = moveFindings(environments, people, { ...plan, allowances: [] }, now);
  const ending = plan.allowances.filter(
    ({ limit, until }) => now < until && until - now <= REMINDED && bare.some((one) => one.limit === limit),
  );
  return [
    ...moveFindings(environments, people, plan, now).map(({ says }) => says),
    ...ending.map(({ limit, until }) => {
      const day = new Date(until).toISOString().slice(0, 10);
      return `${LIMIT_WORDS[limit].title} beyond plan ${plan.name} only until ${day}`;
    }),
  ];
}
