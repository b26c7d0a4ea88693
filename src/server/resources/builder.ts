import { make, readPlainly, remove, type NowOf, type ResourceWork } from './work';

const wanted = ({ resource }: NowOf, name: string): string | number | null => {
  const value = resource.attributes[name];
  return typeof value === 'string' || typeof value === 'number' ? value : null;
};

export const builderWork: ResourceWork = {
  read: (present) => {
    const { condition, attributes } = readPlainly(present);
    const { size = '', image = '', diskGiB = 0, node = null, applied = [] } = attributes;
    return { condition, attributes: { size, image, diskGiB, node, applied } };
  },
  actions: {
    make: make((now) => ({
      size: wanted(now, 'size'),
      image: wanted(now, 'image'),
      diskGiB: wanted(now, 'diskGiB'),
      node: wanted(now, 'node'),
    })),
    remove,
  },
};
