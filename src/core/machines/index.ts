/** What a host of one size holds. `key` is the size's id at the site. */
export interface MachineSize {
  readonly key: string;
  readonly vcpu: number;
  readonly memoryGiB: number;
}

/** A size as people read it: `4 vCPU · 16 GiB`. */
export const writeSize = (size: { vcpu: number; memoryGiB: number }): string =>
  `${size.vcpu} vCPU · ${size.memoryGiB} GiB`;

/** How people read each size, by its key; one that has the same key at several sites is the same there. */
export const namesOfSizes = (sizes: Iterable<MachineSize>): Readonly<Record<string, string>> =>
  Object.fromEntries(Array.from(sizes, (size) => [size.key, writeSize(size)]));
