import type { SavedStepsView } from '../../contract';
import { get } from '../../client/api';
import { useLive } from '../../client/live';

/** Saved steps that an owner's recipes may use. */
export function useSaved(owner: string): {
  readonly saved: readonly SavedStepsView[];
  readonly again: () => void;
} {
  const { value, again } = useLive(
    {
      key: `saved steps ${owner}`,
      read: () => get('/customers/{customer}/saved-steps', { customer: owner }),
    },
    { saved: [] },
    '/events',
    (change) => change.topic === 'ground',
  );
  return { saved: value.saved, again };
}
