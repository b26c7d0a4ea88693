import type { Session, SessionProgram } from '../../contract';
import { useEffect, useState } from 'react';
import { X } from 'lucide-react';
import { get, whyOf } from '../../client/api';
import { Button } from '../../ui/Button';
import { Chip } from '../../ui/Chip';
import { Panel } from '../../ui/Panel';
import { LookAlong } from './LookAlong';
import styles from './Programs.module.css';

interface Props {
  readonly session: Session;
  /** Left out: they may not. */
  readonly onEnd?: ((program: SessionProgram) => void) | undefined;
  readonly onClose: () => void;
  /** Grows when something was done: then it is asked again. */
  readonly round: number;
}

/** What one session runs, as its host says now; what hangs can be ended. */
export function Programs({ session, onEnd, onClose, round }: Props) {
  const [programs, setPrograms] = useState<readonly SessionProgram[]>();
  const [problem, setProblem] = useState<string>();
  const { customer, provider, id } = session;
  useEffect(() => {
    let ended = false;
    const ask = (): void =>
      void get('/customers/{customer}/sessions/{provider}/{session}/programs', {
        customer,
        provider,
        session: id,
      }).then(
        (found) => {
          if (ended) return;
          setPrograms(found.programs);
          setProblem(undefined);
        },
        (error: unknown) => {
          if (!ended) setProblem(whyOf(error));
        },
      );
    ask();
    const timer = setInterval(ask, 4_000);
    return () => {
      ended = true;
      clearInterval(timer);
    };
  }, [customer, provider, id, round]);
  return (
    <Panel
      title={`${session.person ?? session.account} of ${customer}`}
      side={
        <Button kind="quiet" icon={<X size={16} aria-hidden="true" />} onPress={onClose}>
          Close
        </Button>
      }
    >
      <p className={styles.quiet}>
        <span className="mono">{session.host}</span>
        {session.personId !== null && (
          <>
            {' · '}
            <a href={`/customers/${customer}/people/${session.personId}`}>What they see, and why</a>
          </>
        )}
      </p>
      {problem !== undefined && <p role="alert">{problem}</p>}
      <ul className={styles.programs}>
        {programs?.map((program) => (
          <li key={program.id}>
            <b>{program.name}</b>
            <span className={styles.load} aria-hidden="true">
              <span style={{ width: `${Math.min(100, program.load)}%` }} />
            </span>
            <span className={styles.figures}>
              {program.load} % · {program.memoryMiB} MiB
            </span>
            {program.responds ? <Chip tone="good">responds</Chip> : <Chip tone="bad">does not respond</Chip>}
            {onEnd && <Button onPress={() => onEnd(program)}>End it</Button>}
          </li>
        ))}
        {programs?.length === 0 && <li>Nothing runs there any more.</li>}
      </ul>
      {onEnd && <LookAlong session={session} />}
    </Panel>
  );
}
