import type { ActImpact, Session } from '../../contract';
import { useEffect, useState } from 'react';
import type { TextName } from '../../core/message-texts';
import { MOST_MINUTES, sessionAct, type SessionActKey } from '../../core/session-acts';
import { ApiProblem, newKey, send, whyOf } from '../../client/api';
import { Button } from '../../ui/Button';
import { Dialog } from '../../ui/Dialog';
import { LongField, TextField } from '../../ui/Field';
import { ImpactLine } from '../../ui/ImpactLine';
import { Mark } from '../../ui/Mark';
import styles from './ActDialog.module.css';
import { Said } from './Said';
import { WhyField } from './WhyField';

const SPOKEN_TO: readonly TextName[] = ['person', 'customer', 'host'];
const SIGNED_OUT: readonly TextName[] = [...SPOKEN_TO, 'minutes'];
const USUAL_MINUTES = 10;
const MOST_NAMED = 8;

interface Props {
  readonly act: SessionActKey;
  readonly sessions: readonly Session[];
  /** Which program is ended. */
  readonly program?: { readonly id: string; readonly name: string } | undefined;
  /** What is said at first. */
  readonly says?: string | undefined;
  readonly onClose: () => void;
  readonly onDone: () => void;
}

/** One dialog for everything that is done with sessions: whose they are, whom it touches, what is said. */
export default function ActDialog({ act: key, sessions, program, says = '', onClose, onDone }: Props) {
  const act = sessionAct(key);
  const [text, setText] = useState(program?.id ?? says);
  const [minutes, setMinutes] = useState(act.warns ? USUAL_MINUTES : 0);
  const [reason, setReason] = useState('');
  const [problem, setProblem] = useState<string>();
  const [busy, setBusy] = useState(false);
  const asked = {
    act: key,
    sessions: sessions.map(({ customer, provider, id }) => ({ customer, provider, id })),
    text: text.trim(),
    minutes,
  };
  const { impact, refused } = useImpact(JSON.stringify(asked));
  const fault = refused instanceof ApiProblem ? refused.fields.text : undefined;
  const told = problem ?? (refused !== undefined && fault === undefined ? whyOf(refused) : undefined);
  const [one] = sessions;
  const what =
    program?.name ??
    (sessions.length === 1 ? (one?.person ?? one?.account ?? '') : `${sessions.length} sessions`);
  const ready =
    impact !== undefined &&
    refused === undefined &&
    impact.people > 0 &&
    (!act.says || text.trim() !== '') &&
    !busy;
  const confirm = async (): Promise<void> => {
    setBusy(true);
    setProblem(undefined);
    try {
      await send('POST', '/sessions/acts', {}, { body: { ...asked, reason }, key: newKey() });
      onDone();
    } catch (error) {
      setProblem(whyOf(error));
      setBusy(false);
    }
  };
  return (
    <Dialog
      open
      onClose={onClose}
      title={`${act.verb}: ${what}`}
      actions={
        <>
          <Button onPress={onClose}>Back</Button>
          <Button kind={act.endsWork ? 'danger' : 'main'} isDisabled={!ready} onPress={() => void confirm()}>
            {act.verb} for{' '}
            {impact?.customers
              .map(({ code }) => code)
              .slice(0, 3)
              .join(', ') ?? '…'}
            {impact && impact.customers.length > 3 && ` and ${impact.customers.length - 3} more`}
          </Button>
        </>
      }
    >
      {impact && (
        <>
          <ImpactLine line={impact.line} />
          <ul className={styles.customers} aria-label="Whose they are">
            {impact.customers.map(({ code, name, mark, people }) => (
              <li key={code}>
                <Mark mark={mark} size={30} />
                <b>{name}</b>
                <span>{people}</span>
              </li>
            ))}
          </ul>
          <p className={styles.what}>
            {sessions
              .slice(0, MOST_NAMED)
              .map((session) => session.person ?? session.account)
              .join(', ')}
            {sessions.length > MOST_NAMED && ` and ${sessions.length - MOST_NAMED} more`}{' '}
            {sessions.length === 1 ? act.what.one : act.what.many}.
            {impact.gone > 0 && ` ${impact.gone} of them are over by now.`}
          </p>
        </>
      )}
      {(act.says || act.warns) && program === undefined && (
        <>
          <LongField
            label="What they read"
            rows={2}
            maxLength={400}
            {...(act.warns ? { help: 'left empty: when they will be signed out' } : {})}
            value={text}
            error={fault}
            onChange={(event) => setText(event.target.value)}
          />
          <Said text={text} names={act.warns ? SIGNED_OUT : SPOKEN_TO} isOpen={!act.warns} onSay={setText} />
          {impact?.reads && refused === undefined && (
            <p className={styles.reads}>
              <b>{impact.reads.name} reads</b>
              <q>{impact.reads.text}</q>
            </p>
          )}
        </>
      )}
      {act.warns && (
        <TextField
          label="Minutes they have"
          type="number"
          min={0}
          max={MOST_MINUTES}
          value={minutes}
          onChange={(event) =>
            setMinutes(Math.min(MOST_MINUTES, Math.max(0, Math.round(Number(event.target.value)))))
          }
        />
      )}
      <WhyField value={reason} onChange={setReason} />
      {told !== undefined && <p role="alert">{told}</p>}
    </Dialog>
  );
}

const TYPING_MS = 250;

interface Impact {
  readonly impact: ActImpact | undefined;
  /** What was wrong with what was asked. */
  readonly refused: unknown;
}

/** Whom it would touch, asked when typing rests. */
function useImpact(asked: string): Impact {
  const [found, setFound] = useState<Impact>({ impact: undefined, refused: undefined });
  useEffect(() => {
    let ended = false;
    const timer = setTimeout(() => {
      send('POST', '/sessions/acts/proposal', {}, { body: JSON.parse(asked) as never }).then(
        (impact) => {
          if (!ended) setFound({ impact, refused: undefined });
        },
        (refused: unknown) => {
          // Whose they are does not change by what is wrong with the words.
          if (!ended) setFound((before) => ({ ...before, refused }));
        },
      );
    }, TYPING_MS);
    return () => {
      ended = true;
      clearTimeout(timer);
    };
  }, [asked]);
  return found;
}
