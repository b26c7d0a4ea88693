import type { Attributes } from '../../core/intent';
import { make, only, refOf, remove, set, type NowOf, type ResourceWork } from './work';

/** What is published, and who is let in: those to whom it is granted, as far as there are licence seats. */
async function wanted(now: NowOf): Promise<Attributes> {
  const { items = [], details = [], crosses = [], licences = 0, grants = [] } = now.resource.attributes;
  return { items, details, crosses, licences, grants, accounts: await now.licensed(now.resource.id) };
}

export const publicationWork: ResourceWork = {
  read: only('items', 'details', 'crosses', 'licences', 'grants'),
  actions: {
    make: make(async (now) => ({
      ...(await wanted(now)),
      pool: await refOf(now, String(now.resource.attributes.pool)),
    })),
    set: set(wanted, ({ resource }) => `for ${String(resource.attributes.licences)} people`),
    remove,
  },
};
