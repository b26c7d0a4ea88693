import { make, only, refOf, remove, type ResourceWork } from './work';

export const subnetWork: ResourceWork = {
  read: only('cidr'),
  actions: {
    make: make(async (now) => ({
      cidr: now.resource.attributes.cidr ?? '',
      network: await refOf(now, `network:${now.site}`),
    })),
    remove,
  },
};
