import { hostEdits, type HostTouch, type Intent } from '../intent';
import type { Facts } from '../facts';
import { blocks, warns, type Check } from './check';
import type { Change } from './change';
import type { PlannedTask } from './tasks';

/** Whose data would be destroyed with a resource, one by one: `the disk of kim`. */
export function destroyedBy(tasks: readonly PlannedTask[], { known }: Pick<Facts, 'known'>): string[] {
  const before = new Map(known.map((one) => [one.key, one]));
  return tasks.flatMap(({ key, kind, task, retained }) => {
    const was = retained ?? before.get(key);
    if (!was || (task.do !== 'remove' && task.do !== 'replace')) return [];
    return kind.holdsData?.(was.attributes) ?? [];
  });
}

/** So many are named; the others only counted. */
const MOST_NAMED = 8;

const listed = (all: readonly string[]): string =>
  all.length <= MOST_NAMED
    ? all.join(', ')
    : `${all.slice(0, MOST_NAMED).join(', ')} and ${all.length - MOST_NAMED} more`;

const WORDS: Readonly<Partial<Record<HostTouch, string>>> = {
  person: 'take it from its person',
  personId: 'take it from its person',
  disk: 'give it another disk',
  leftAt: 'forget that its person left',
  'host gone': 'take it away',
};

/**
 * What would become otherwise though the change does not say so: a desktop that is somebody's, its disk, or data. That is a
 * fault of Laager's, and it is stopped here.
 */
export function unsaidCheck(
  change: Pick<Change, 'verb' | 'touches' | 'destroys'>,
  before: Intent | null,
  after: Intent | null,
  destroyed: readonly string[],
): Check | undefined {
  if (change.destroys !== true && destroyed.length > 0)
    return blocks(
      'unsaid',
      'Data',
      `this would destroy ${listed(destroyed)}, which ${change.verb.toLowerCase()} must not`,
      'End those desktops first, and say there what becomes of the data.',
    );
  if (!before || !after) return undefined;
  const unsaid = hostEdits(before, after).filter(({ touch }) => !change.touches.includes(touch));
  if (unsaid.length === 0) return undefined;
  const says = unsaid.map(({ pool, slot, touch }) => `${pool} ${slot}: ${WORDS[touch] ?? `change ${touch}`}`);
  return blocks(
    'unsaid',
    'Only what was asked for',
    `this would also do more: ${listed(says)}`,
    'Choose otherwise; if there is nothing to choose, tell who looks after Laager.',
  );
}

/** What is destroyed is named before, and the code is typed for it. */
export const destroysCheck = (destroyed: readonly string[]): Check | undefined =>
  destroyed.length === 0
    ? undefined
    : warns(
        'destroys',
        'Data',
        `will be destroyed: ${listed(destroyed)}`,
        'Make sure that nobody needs it any more.',
      );
