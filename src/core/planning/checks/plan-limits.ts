import type { Facts } from '../../facts';
import type { Intent } from '../../intent';
import { writeSize } from '../../machines';
import { addAmounts, limitsPassed, mostOf, takenBy, type PlanFacts } from '../../plans';
import { bad, doubtful, good, type PlanCheck } from './shape';

/** Whether all that the customer would have is in its plan. */
export const planLimits: PlanCheck = {
  key: 'plan',
  title: 'Plan limits',
  fix: { of: 'customer', page: 'plan', says: 'Plan' },
  finds: ({ facts, before, after }) => {
    if (after === null) return undefined;
    const { plan, takes } = facts.customer;
    const { sizes } = facts.site;
    const [were, are] = [takenBy(before, sizes), takenBy(after, sizes)];
    // Its people are the environment's own: those of a customer's environments are mostly the same.
    const total = { ...addAmounts(addAmounts(takes, were, -1), are), people: are.people };
    const passed = limitsPassed(total, plan, facts.now);
    const grown = passed.filter(({ limit }) => are[limit] > were[limit]);
    const barred = barredBy(plan, facts.site, before, after);
    if (grown.length > 0)
      return bad(
        grown.map(({ says }) => says).join('; '),
        'Take less, choose a larger plan, or have a lead raise the limit for a while.',
      );
    if (barred !== undefined) return bad(...barred);
    if (are.hosts === were.hosts) return undefined;
    const still = passed.find(({ limit }) => limit === 'hosts');
    if (still) return doubtful(`still ${still.says}`, 'Take more away, or choose a larger plan.');
    const most = mostOf(plan, 'hosts', facts.now);
    return good(
      most === null
        ? `${total.hosts} hosts in plan ${plan.name}`
        : `${total.hosts} of ${most} hosts in plan ${plan.name}`,
    );
  },
};

/** A site or a size that the plan has not, where it was not there before: what is wrong, and what to do. */
function barredBy(
  plan: PlanFacts,
  site: Facts['site'],
  before: Intent | null,
  after: Intent,
): [says: string, action: string] | undefined {
  if (before === null && plan.sites.length > 0 && !plan.sites.includes(after.site))
    return [`plan ${plan.name} does not reach ${site.name}`, 'Choose another site, or a larger plan.'];
  const sizesOf = ({ pools }: Intent): string[] =>
    pools.flatMap((pool) => [pool.size, ...pool.hosts.flatMap((host) => host.size ?? [])]);
  const had = new Set(before ? sizesOf(before) : []);
  const barred = sizesOf(after).find(
    (size) => !had.has(size) && plan.sizes.length > 0 && !plan.sizes.includes(size),
  );
  if (barred === undefined || barred === '') return undefined;
  const size = site.sizes.find((one) => one.key === barred);
  return [
    `plan ${plan.name} has no ${size ? writeSize(size) : barred}`,
    'Choose another size, or a larger plan.',
  ];
}
