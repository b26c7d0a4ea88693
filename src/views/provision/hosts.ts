import type { Facts } from '../../core/facts';
import type { Outlook } from './facts';

/** A host that would be made. */
export interface ProposedHost {
  readonly name: string;
  readonly pool: string;
  readonly address: string;
  readonly node: string | null;
  /** Which quota it counts against besides the whole. */
  readonly family: string | undefined;
  readonly vcpu: number;
  readonly memoryGiB: number;
}

export const hostsOf = (outlook: Outlook, facts: Facts): ProposedHost[] =>
  outlook.wanted
    .filter((one) => one.kind === 'host' && one.name !== '')
    .map(({ name, attributes }) => {
      const size = facts.site.sizes.find((one) => one.key === attributes.size);
      return {
        name,
        pool: String(attributes.pool).replace('pool:', ''),
        address: String(attributes.address),
        node: typeof attributes.node === 'string' ? attributes.node : null,
        family: size?.family,
        vcpu: size?.vcpu ?? 0,
        memoryGiB: size?.memoryGiB ?? 0,
      };
    });
