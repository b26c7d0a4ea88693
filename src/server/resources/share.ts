import { make, only, remove, retain, set, type ResourceWork } from './work';

export const shareWork: ResourceWork = {
  read: only('gib'),
  actions: {
    make: make(({ resource }) => ({ gib: resource.attributes.gib ?? 1 })),
    set: set(
      ({ resource }) => ({ gib: resource.attributes.gib ?? 1 }),
      ({ resource }) => `${String(resource.attributes.gib)} GiB`,
    ),
    remove,
    retain,
  },
};
