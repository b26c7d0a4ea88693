import { make, only, presentOf, remove, set, wait, type ResourceWork } from './work';

export const networkWork: ResourceWork = {
  read: only('cidr'),
  actions: {
    make: make(({ resource }) => ({ cidr: resource.attributes.cidr ?? '' })),
    set: set(
      ({ resource }) => ({ cidr: resource.attributes.cidr ?? '' }),
      ({ resource }) => `is ${String(resource.attributes.cidr)} now`,
    ),
    /** It goes when nothing is in it any more: of environments that go at the same time, the last one takes it along. */
    remove: async (now) => {
      const there = await presentOf(now);
      const all = there ? await now.provider.resources({ customer: now.scope.customer.code }) : [];
      const inside = all.find((one) => one.kind === 'subnet' && one.attributes.network === there?.ref);
      return inside ? wait(`${inside.name} is still in it`) : remove(now);
    },
  },
};
