import { make, only, refOf, remove, type ResourceWork } from './work';

export const servicesWork: ResourceWork = {
  read: only('directory', 'gateway', 'nameServers'),
  actions: {
    make: make(async (now) => {
      const { directory = '', gateway = '', nameServers = [] } = now.resource.attributes;
      return { directory, gateway, nameServers, subnet: await refOf(now, 'subnet:services') };
    }),
    remove,
  },
};
