import type { ParentRun } from '../../contract';
import { Chip } from '../../ui/Chip';
import { RUN_TONE } from '../shared/words';

/** What has stopped it, where it is about parts. */
const CAUSES: Readonly<Record<NonNullable<ParentRun['cause']>, string>> = {
  'by hand': ', by hand',
  'failure limit': ', too many failed',
  'steps failed': ', parts failed',
  'ended by hand': '',
};

/** How a parent run stands; one that was ended by hand is not done. */
export function ParentStatus({
  run: { state, cause },
}: {
  readonly run: Pick<ParentRun, 'state' | 'cause'>;
}) {
  if (cause === 'ended by hand') return <Chip tone="plain">ended by hand</Chip>;
  return (
    <Chip tone={RUN_TONE[state]}>
      {state}
      {cause !== null && CAUSES[cause]}
    </Chip>
  );
}
