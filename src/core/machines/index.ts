/** What a host of one size holds. `key` is the size's id at the site. */
export interface MachineSize {
  readonly key: string;
  readonly vcpu: number;
  readonly memoryGiB: number;
  /** Memory of its graphics processor; left out: it has none. */
  readonly graphicsGiB?: number | undefined;
  /** Which quota of a hosted region it counts against besides the whole; left out: the whole alone. */
  readonly family?: string | undefined;
}

/** A size as people read it: `4 vCPU · 16 GiB`, `8 vCPU · 32 GiB · 8 GiB graphics`. */
export const writeSize = ({ vcpu, memoryGiB, graphicsGiB = 0 }: Omit<MachineSize, 'key'>): string =>
  [`${vcpu} vCPU`, `${memoryGiB} GiB`, ...(graphicsGiB > 0 ? [`${graphicsGiB} GiB graphics`] : [])].join(
    ' · ',
  );

/** How people read each size, by its key; one that has the same key at several sites is the same there. */
export const namesOfSizes = (sizes: Iterable<MachineSize>): Readonly<Record<string, string>> =>
  Object.fromEntries(Array.from(sizes, (size) => [size.key, writeSize(size)]));
