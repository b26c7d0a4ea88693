import type { Attributes } from '../../core/intent';
import { make, only, remove, retain, set, type NowOf, type ResourceWork } from './work';

const wanted = ({ resource: { attributes } }: NowOf): Attributes => ({
  gib: attributes.gib ?? 1,
  person: attributes.person ?? '',
  kept: attributes.kept ?? false,
});

export const personalDiskWork: ResourceWork = {
  read: only('gib', 'person', 'kept'),
  actions: {
    make: make(wanted),
    set: set(wanted, ({ resource: { attributes } }) =>
      attributes.kept === true ? 'put aside' : `of ${String(attributes.person) || 'nobody yet'}`,
    ),
    remove,
    retain,
  },
};
