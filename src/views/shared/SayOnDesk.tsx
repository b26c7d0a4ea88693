import type { Mark as MarkData } from '../../contract';
import { useState } from 'react';
import { ApiProblem, newKey, send, whyOf } from '../../client/api';
import { Button } from '../../ui/Button';
import { Dialog } from '../../ui/Dialog';
import { LongField, SelectField } from '../../ui/Field';
import type { TextName } from '../../core/message-texts';
import { Mark } from '../../ui/Mark';
import { Said } from './Said';

const TIMES: readonly { readonly hours: number; readonly says: string }[] = [
  { hours: 4, says: 'four hours' },
  { hours: 24, says: 'a day' },
  { hours: 72, says: 'three days' },
  { hours: 168, says: 'a week' },
  { hours: 720, says: 'thirty days' },
];

const ON_DESKS: readonly TextName[] = ['person', 'customer'];

interface Props {
  readonly code: string;
  readonly mark: MarkData;
  readonly person: { readonly id: string; readonly name: string } | undefined;
  readonly onClose: () => void;
  readonly onDone: () => void;
}

/** A sentence that stands on somebody's desk, or on everyone's of the customer, for a while. */
export default function SayOnDesk({ code, mark, person, onClose, onDone }: Props) {
  const [text, setText] = useState('');
  const [hours, setHours] = useState(24);
  const [error, setError] = useState<string>();
  const say = (): void => {
    send(
      'POST',
      '/customers/{customer}/desk-messages',
      { customer: code },
      { body: { person: person?.id ?? null, text, hours }, key: newKey() },
    ).then(onDone, (failed: unknown) =>
      setError(failed instanceof ApiProblem ? (failed.fields.text ?? failed.message) : whyOf(failed)),
    );
  };
  return (
    <Dialog
      open
      onClose={onClose}
      mark={<Mark mark={mark} size={34} />}
      title={person ? `On the desk of ${person.name}` : `On everyone’s desk of ${code}`}
      actions={
        <>
          <Button onPress={onClose}>Back</Button>
          <Button kind="main" isDisabled={text.trim() === ''} onPress={say}>
            Say it for {code}
          </Button>
        </>
      }
    >
      <LongField
        label="What it says"
        value={text}
        maxLength={300}
        rows={3}
        error={error}
        onChange={(event) => setText(event.target.value)}
      />
      <Said text={text} names={ON_DESKS} isOpen onSay={setText} />
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
