import type { JoinedNetwork } from '../../contract';
import type { ChipTone } from '../../ui/Chip';

export const isJoined = ({ out, back }: Pick<JoinedNetwork, 'out' | 'back'>): boolean =>
  out === 'stands' && back === 'stands';

/** How a network is joined, in a word. */
export function stateOf({ out, back, differences }: JoinedNetwork): { says: string; tone: ChipTone } {
  const sides = [out, back];
  if (sides.includes('under way')) return { says: 'under way', tone: 'busy' };
  if (sides.every((one) => one === 'not asked for')) return { says: 'not joined', tone: 'quiet' };
  if (sides.every((one) => one === 'missing')) return { says: 'broken', tone: 'bad' };
  if (out !== 'stands') return { says: 'no way out', tone: 'bad' };
  if (back !== 'stands') return { says: 'no way back', tone: 'bad' };
  if (differences.length > 0) return { says: 'otherwise than wanted', tone: 'care' };
  return { says: 'both sides', tone: 'good' };
}

/** Of more than these only those who are not well joined are drawn by themselves. */
export const MOST_DRAWN = 24;

/** Who stands around the shared services, in the circle's order: those whose way is broken first. */
export function drawnOf(networks: readonly JoinedNetwork[]): {
  readonly drawn: readonly JoinedNetwork[];
  readonly others: number;
} {
  const ofWorst = [...networks].sort(
    (a, b) => Number(isWell(a)) - Number(isWell(b)) || a.customer.localeCompare(b.customer),
  );
  const drawn = ofWorst.slice(0, MOST_DRAWN);
  return { drawn, others: networks.length - drawn.length };
}

const isWell = (one: JoinedNetwork): boolean => stateOf(one).tone === 'good';
