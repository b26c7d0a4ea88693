import type { Look } from '../../contract';
import { useState } from 'react';
import { ApiProblem, send } from '../../client/api';
import { Button } from '../../ui/Button';
import { Dialog } from '../../ui/Dialog';
import { SelectField, TextField } from '../../ui/Field';
import { Mark, type MarkLook } from '../../ui/Mark';

const TIMES: readonly { readonly hours: number; readonly says: string }[] = [
  { hours: 1, says: 'an hour' },
  { hours: 4, says: 'four hours' },
  { hours: 24, says: 'a day' },
  { hours: 72, says: 'three days' },
  { hours: 168, says: 'a week' },
];

/** What can wait is out of the way until then; why is asked, because somebody else will. */
export default function PutOff({
  look,
  mark,
  onClose,
  onDone,
}: {
  readonly look: Look;
  readonly mark: MarkLook | undefined;
  readonly onClose: () => void;
  readonly onDone: () => void;
}) {
  const [hours, setHours] = useState(24);
  const [reason, setReason] = useState('');
  const [error, setError] = useState<string>();
  const keep = (): void => {
    void send('PUT', '/watch/marks', {}, { body: { key: look.key, state: 'put off', hours, reason } })
      .then(onDone)
      .catch((failed: unknown) =>
        setError(
          failed instanceof ApiProblem ? (failed.fields.reason ?? failed.message) : 'That could not be kept.',
        ),
      );
  };
  return (
    <Dialog
      open
      onClose={onClose}
      title="Put off"
      mark={mark && <Mark mark={mark} size={34} />}
      actions={
        <>
          <Button kind="quiet" onPress={onClose}>
            Cancel
          </Button>
          <Button kind="main" onPress={keep}>
            Put off
          </Button>
        </>
      }
    >
      <p>{look.says}</p>
      <TextField
        label="Why can it wait?"
        value={reason}
        maxLength={200}
        error={error}
        onChange={(event) => setReason(event.target.value)}
      />
      <SelectField label="For" value={hours} onChange={(event) => setHours(Number(event.target.value))}>
        {TIMES.map((one) => (
          <option key={one.hours} value={one.hours}>
            {one.says}
          </option>
        ))}
      </SelectField>
    </Dialog>
  );
}
