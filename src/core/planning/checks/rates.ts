import { bad, good, type PlanCheck } from './shape';

/** Whether all that it makes has a price today. */
export const rates: PlanCheck = {
  key: 'rates',
  title: 'Rates',
  fix: { of: 'everyone', page: 'money/prices', says: 'Prices' },
  finds: ({ unpriced, tasks }) => {
    const [first] = unpriced;
    if (first)
      return bad(
        `no rate for ${first.meter}${first.size === null ? '' : ` of ${first.size}`} holds today`,
        'Add it to the rate card.',
      );
    return tasks.some(({ task }) => task.do === 'make') ? good('all priced') : undefined;
  },
};
