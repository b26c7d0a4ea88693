import { bad, good, type PlanCheck } from './shape';

/** Whether there is an address for every host. */
export const addresses: PlanCheck = {
  key: 'addresses',
  title: 'Addresses',
  fix: { of: 'everyone', page: 'ground/addresses', says: 'Addresses' },
  finds: ({ findings: { addressFaults, names, room } }) => {
    const [fault] = addressFaults;
    if (fault !== undefined) return bad(fault, 'Give the customer a larger block at this site.');
    if (names === 0) return undefined;
    if (room > 0) return good(`room for ${room} hosts`);
    return good(names === 1 ? 'one is free' : `${names} are free`);
  },
};
