import { fits, openTo, put, RESOURCES, takeOff, type Bin, type HostNeed } from './bins';

/** So many hosts may move one after the other for the sake of one. */
const MOST_MOVES = 3;
/** So many moves are looked at in one placing: what is very full is refused, not searched for ever. */
const MOST_LOOKS = 2_000;

/** What is left of the moves that may be looked at. */
export interface Looks {
  left: number;
}

export const openLooks = (): Looks => ({ left: MOST_LOOKS });

/**
 * Makes room for a host that fits nowhere by moving others that were put somewhere just now: off a node where that would
 * be enough, to a node that has room for them, or where the same makes room for them in turn.
 * @returns whether the host has a place now
 */
export function exchange(host: HostNeed, bins: readonly Bin[], looks: Looks): boolean {
  return mayFit(host, bins) && settle(host, bins, MOST_MOVES, new Set(), looks);
}

/** Moving makes no more room than there is in all. */
function mayFit(host: HostNeed, bins: readonly Bin[]): boolean {
  const open = openTo(bins, host.customer).filter((bin) => bin.node.isDown !== true);
  return RESOURCES.every(
    (resource) => host[resource] <= open.reduce((sum, bin) => sum + bin.free[resource], 0),
  );
}

function settle(
  host: HostNeed,
  bins: readonly Bin[],
  moves: number,
  moved: ReadonlySet<HostNeed>,
  looks: Looks,
): boolean {
  const open = openTo(bins, host.customer);
  const free = open.find((bin) => fits(bin, host));
  if (free) {
    put(free, host);
    return true;
  }
  if (moves === 0) return false;
  for (const bin of open)
    for (const other of [...bin.fresh]) {
      if (looks.left-- <= 0) return false;
      if (moved.has(other) || !isEnough(bin, other, host)) continue;
      takeOff(bin, other);
      put(bin, host);
      if (settle(other, bins, moves - 1, new Set([...moved, other, host]), looks)) return true;
      takeOff(bin, host);
      put(bin, other);
    }
  return false;
}

const isEnough = ({ node, free }: Bin, without: HostNeed, host: HostNeed): boolean =>
  node.isDown !== true && RESOURCES.every((resource) => host[resource] <= free[resource] + without[resource]);
