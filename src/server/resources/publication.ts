import type { Attributes } from '../../core/intent';
import { make, only, refOf, remove, set, type NowOf, type ResourceWork } from './work';

/** What is published, to as many of the customer's first people as it has licences for. */
async function wanted(now: NowOf): Promise<Attributes> {
  const { items = [], crosses = [], licences = 0 } = now.resource.attributes;
  const people = await now.people(Number(licences));
  return { items, crosses, licences, accounts: people.map((one) => one.account) };
}

export const publicationWork: ResourceWork = {
  read: only('items', 'crosses', 'licences'),
  actions: {
    make: make(async (now) => ({
      ...(await wanted(now)),
      pool: await refOf(now, String(now.resource.attributes.pool)),
    })),
    set: set(wanted, ({ resource }) => `for ${String(resource.attributes.licences)} people`),
    remove,
  },
};
