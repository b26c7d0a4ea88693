/** What a host of one size holds. `key` is the size's id at the site. */
export interface MachineSize {
  readonly key: string;
  readonly vcpu: number;
  readonly memoryGiB: number;
}

/** A size as people read it: `4 vCPU · 16 GiB`. */
export const writeSize = (size: { vcpu: number; memoryGiB: number }): string =>
  `${size.vcpu} vCPU · ${size.memoryGiB} GiB`;
