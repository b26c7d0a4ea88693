import type { Attributes } from '../../core/intent';
import { make, only, remove, set, type NowOf, type ResourceWork } from './work';

const wanted = ({ resource }: NowOf): Attributes => ({
  seats: resource.attributes.seats ?? 1,
  arrival: resource.attributes.arrival ?? 'spread',
  may: resource.attributes.may ?? [],
});

export const poolWork: ResourceWork = {
  read: only('seats', 'arrival', 'may'),
  actions: {
    make: make(wanted),
    set: set(wanted, ({ resource }) => `${String(resource.attributes.seats)} seats each`),
    remove,
  },
};
