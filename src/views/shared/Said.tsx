import type { MessageText } from '../../contract';
import { useState } from 'react';
import { Plus, X } from 'lucide-react';
import { ApiProblem, get, newKey, send, whyOf } from '../../client/api';
import { useLive } from '../../client/live';
import { Button } from '../../ui/Button';
import { TEXT_NAMES, unknownNames, type TextName } from '../../core/message-texts';
import styles from './Said.module.css';

/** What stands for each name, in words. */
const STANDS: Readonly<Record<TextName, string>> = {
  person: 'their name',
  customer: 'their organisation',
  host: 'the host they are on',
  minutes: 'the minutes they have',
};

const NONE: { readonly texts: readonly MessageText[] } = { texts: [] };

interface Props {
  /** What is typed now. */
  readonly text: string;
  /** What may be named here, in braces. */
  readonly names: readonly TextName[];
  /** Whether they are shown at first. */
  readonly isOpen: boolean;
  readonly onSay: (text: string) => void;
}

/** Texts that the MSP says again and again: pressed, it is what is said; it can be changed then, and kept as another. */
export function Said({ text, names, isOpen, onSay }: Props) {
  const { value, again } = useLive(
    { key: 'message texts', read: () => get('/message-texts', {}) },
    NONE,
    '/events',
    (change) => change.topic === 'ground',
  );
  const { texts } = value;
  const [problem, setProblem] = useState<string>();
  const failed = (error: unknown): void =>
    setProblem(error instanceof ApiProblem ? (error.fields.text ?? error.message) : whyOf(error));
  const keep = (): void => {
    setProblem(undefined);
    send('POST', '/message-texts', {}, { body: { text: text.trim() }, key: newKey() }).then(again, failed);
  };
  const drop = (id: string): void => {
    setProblem(undefined);
    send('DELETE', '/message-texts/{text}', { text: id }, { key: newKey() }).then(again, failed);
  };
  const sayable = texts.filter((one) => unknownNames(one.text, names).length === 0);
  const isNew = text.trim() !== '' && !texts.some((one) => one.text === text.trim());
  return (
    <div className={styles.said} role="group" aria-label="Kept texts">
      <p className={styles.names}>
        {TEXT_NAMES.filter((name) => names.includes(name)).map((name) => (
          <button
            key={name}
            type="button"
            className={styles.name}
            title={`Stands for ${STANDS[name]}`}
            onClick={() => onSay(`${text}{${name}}`)}
          >
            {`{${name}}`}
          </button>
        ))}
        {isNew && (
          <Button kind="quiet" icon={<Plus size={15} aria-hidden="true" />} onPress={keep}>
            Keep this text
          </Button>
        )}
      </p>
      {sayable.length > 0 && (
        <details className={styles.kept} open={isOpen}>
          <summary>Kept texts · {sayable.length}</summary>{' '}
          <ul className={styles.texts}>
            {sayable.map((one) => (
              <li key={one.id}>
                <button type="button" className={styles.text} onClick={() => onSay(one.text)}>
                  {one.text}
                </button>
                <button
                  type="button"
                  className={styles.drop}
                  aria-label={`Keep no longer: ${one.text}`}
                  title={`kept by ${one.by}`}
                  onClick={() => drop(one.id)}
                >
                  <X size={14} aria-hidden="true" />
                </button>
              </li>
            ))}
          </ul>
        </details>
      )}
      {problem !== undefined && <p role="alert">{problem}</p>}
    </div>
  );
}
