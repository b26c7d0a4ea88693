import { askedAt, bad, seen, type PlanCheck } from './shape';
import { changedWay } from './route';

/** Whether the name servers that the customer's network is told of know its directory. */
export const nameServers: PlanCheck = {
  key: 'name-servers',
  title: 'Network',
  fix: { of: 'customer', page: 'about', says: 'Name servers' },
  finds: (plan) => {
    const { nameServers: asked } = plan.facts.site;
    if (changedWay(plan).length === 0 || asked?.worked !== false) return undefined;
    return seen(
      bad(asked.says, 'Correct the name servers of the customer.'),
      'asked from the shared services',
      askedAt(plan.facts),
    );
  },
};
