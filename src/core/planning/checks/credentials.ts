import { askedAt, bad, good, seen, type PlanCheck } from './shape';

/** Whether the provider lets us in. */
export const credentials: PlanCheck = {
  key: 'credentials',
  title: 'Credentials',
  fix: { of: 'everyone', page: 'ground', says: 'Connections' },
  finds: ({ facts, tasks }) => {
    const { worked, says } = facts.site.signIn;
    if (tasks.length === 0) return undefined;
    return seen(
      worked ? good(says) : bad(says, 'Mend the credentials of the provider under Ground.'),
      `tried at the provider of ${facts.site.name}`,
      askedAt(facts),
    );
  },
};
