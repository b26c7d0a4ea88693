import { askedAt, bad, good, making, seen, type PlanCheck } from './shape';

/** Whether hosts could join the customer's directory. */
export const directory: PlanCheck = {
  key: 'directory',
  title: 'Directory',
  fix: { of: 'customer', page: 'directory', says: 'Directory' },
  finds: (plan) => {
    const { worked, says } = plan.facts.site.directory;
    if (!making(plan).some(({ kind }) => kind.carriesSessions === true)) return undefined;
    const { customer } = plan.facts;
    return seen(
      worked ? good(says) : bad(says, 'Hosts could not join: see that the directory answers.'),
      `${customer.realm} was asked for its computers`,
      askedAt(plan.facts),
    );
  },
};
