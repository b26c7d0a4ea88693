import type { DeskMessage, Mark } from '../../contract';
import { MessageSquarePlus, X } from 'lucide-react';
import { lazy, Suspense, useState } from 'react';
import { get, send, whyOf } from '../../client/api';
import { writeWhen } from '../../client/format';
import { useLive } from '../../client/live';
import { Button } from '../../ui/Button';
import { Panel } from '../../ui/Panel';
import styles from './DeskMessages.module.css';

const SayOnDesk = lazy(() => import('./SayOnDesk'));

interface Props {
  readonly code: string;
  readonly zone: string;
  readonly mark: Mark;
  /** Whose desk; undefined: everyone's. */
  readonly person?: { readonly id: string; readonly name: string } | undefined;
  readonly initial: readonly DeskMessage[];
  readonly mayChange: boolean;
}

/** What stands on a desk, or on everyone's, until it is taken away or over. */
export function DeskMessages({ code, zone, mark, person, initial, mayChange }: Props) {
  const { value: messages, again } = useLive<readonly DeskMessage[]>(
    {
      key: `desk messages ${person?.id ?? ''}`,
      read: async () =>
        (
          await get(
            '/customers/{customer}/desk-messages',
            { customer: code },
            person === undefined ? {} : { person: person.id },
          )
        ).messages,
    },
    initial,
    `/customers/${code}/events`,
    (change) => change.topic === 'people',
  );
  const [says, setSays] = useState(false);
  const [problem, setProblem] = useState<string>();
  const shown = person ? messages : messages.filter((one) => one.person === null);
  if (!mayChange && shown.length === 0) return null;
  return (
    <Panel title={person ? 'On their desk' : 'On everyone’s desk'}>
      {problem !== undefined && <p role="alert">{problem}</p>}
      <ul className={styles.said}>
        {shown.map((one) => (
          <li key={one.id}>
            <span>
              {one.text}
              <small>
                {one.person === null && person ? 'to everyone, ' : ''}
                {one.by}, until {writeWhen(one.until, zone)}
              </small>
            </span>
            {mayChange && (
              <button
                type="button"
                aria-label={`Take away: ${one.text}`}
                title="Take away"
                onClick={() => {
                  setProblem(undefined);
                  send('DELETE', '/customers/{customer}/desk-messages/{message}', {
                    customer: code,
                    message: one.id,
                  })
                    .catch((error: unknown) => setProblem(whyOf(error)))
                    .finally(again);
                }}
              >
                <X size={15} aria-hidden="true" />
              </button>
            )}
          </li>
        ))}
      </ul>
      {mayChange && (
        <Button icon={<MessageSquarePlus size={16} aria-hidden="true" />} onPress={() => setSays(true)}>
          Say something there
        </Button>
      )}
      {says && (
        <Suspense>
          <SayOnDesk
            code={code}
            mark={mark}
            person={person}
            onClose={() => setSays(false)}
            onDone={() => {
              setSays(false);
              again();
            }}
          />
        </Suspense>
      )}
    </Panel>
  );
}
