import { ok, refuse, type Result } from '../result';
import { lastOf, sizeOf, writeBlock, type Block } from './block';
import { bestFit, prefixFor } from './space';

export interface SubnetPlan {
  readonly subnet: Block;
  /** Addresses left for hosts after the site's reserved ones. */
  readonly room: number;
}

/**
 * A subnet for a pool inside a customer's block, sized for the pool's ceiling plus the site's reserved addresses.
 * @param ceiling the most hosts the pool may ever have, from 1
 * @param reserved addresses a site keeps in every subnet, from 2 (network and broadcast)
 */
export function planSubnet(
  block: Block,
  taken: readonly Block[],
  ceiling: number,
  reserved: number,
): Result<SubnetPlan> {
  const prefix = prefixFor(ceiling + reserved);
  const subnet = bestFit([block], taken, prefix);
  if (!subnet) return refuse(`${writeBlock(block)} has no free /${prefix} for ${ceiling} hosts`);
  return ok({ subnet, room: sizeOf(subnet) - reserved });
}

/**
 * The next free host addresses of a subnet. The last address is the broadcast address; the rest of the reserved ones
 * are the first in the subnet. May return fewer than asked for: then the subnet is full.
 */
export function hostAddresses(
  subnet: Block,
  reserved: number,
  taken: ReadonlySet<number>,
  count: number,
): number[] {
  const found: number[] = [];
  const last = lastOf(subnet) - 1;
  for (let address = subnet.base + reserved - 1; address <= last && found.length < count; address++)
    if (!taken.has(address)) found.push(address);
  return found;
}
