import { isGoing } from '../../status';
import { bad, doubtful, good, making, type PlanCheck } from './shape';

/** Whether the customer is one for whom things are built. */
export const customer: PlanCheck = {
  key: 'customer',
  title: 'Customer',
  fix: { of: 'customer', page: 'life', says: 'Their state' },
  finds: (plan) => {
    const { state, code } = plan.facts.customer;
    if (making(plan).length === 0) return undefined;
    if (isGoing(state)) return bad(`${code} is ${state}`, 'Nothing new is built for a customer who goes.');
    if (state === 'paused')
      return doubtful(`${code} is paused`, 'Ask whether they want to pay for this now.');
    return good(`${code} is ${state}`);
  },
};
