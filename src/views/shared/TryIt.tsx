import type { Says } from '../../contract';
import { Button } from '../../ui/Button';
import { Chip } from '../../ui/Chip';

/** Tries something outside for real, and says what came of it. */
export const TryIt = ({
  says,
  isDisabled = false,
  onTry,
}: {
  /** Undefined: it was not tried yet. */
  readonly says: Says | undefined;
  readonly isDisabled?: boolean;
  readonly onTry: () => void;
}) => (
  <>
    <Button isDisabled={isDisabled} onPress={onTry}>
      Try it
    </Button>
    {says && (
      <span role="status">
        <Chip tone={says.worked ? 'good' : 'bad'}>{says.says}</Chip>
      </span>
    )}
  </>
);
