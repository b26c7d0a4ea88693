import type { Attributes } from '../../core/intent';
import { make, only, presentOf, remove, set, wait, type NowOf, type ResourceWork } from './work';

const wanted = ({ resource: { attributes } }: NowOf): Attributes => ({
  cidr: attributes.cidr ?? '',
  ...(attributes.nameServers === undefined ? {} : { nameServers: attributes.nameServers }),
});

export const networkWork: ResourceWork = {
  read: only('cidr', 'nameServers'),
  actions: {
    make: make(wanted),
    set: set(wanted, ({ resource }) => `is ${String(resource.attributes.cidr)} now`),
    /** It goes when nothing is in it any more: of environments that go at the same time, the last one takes it along. */
    remove: async (now) => {
      const there = await presentOf(now);
      const all = there ? await now.provider.resources({ customer: now.scope.customer.code }) : [];
      const inside = all.find((one) => one.kind === 'subnet' && one.attributes.network === there?.ref);
      return inside ? wait(`${inside.name} is still in it`) : remove(now);
    },
  },
};
