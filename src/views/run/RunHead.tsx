import { CircleStop, Play, RotateCcw, Square } from 'lucide-react';
import { useState, type ReactNode } from 'react';
import type { Run } from '../../contract';
import { whyOf } from '../../client/api';
import { count, writeWhen } from '../../client/format';
import { Button } from '../../ui/Button';
import { Ring, type RingArc } from '../../ui/Ring';
import styles from './RunHead.module.css';

/** What every run has, whatever it is made of. */
type AnyRun = Pick<Run, 'title' | 'state' | 'done' | 'failed' | 'actor' | 'reason' | 'begunAt'>;

interface Props {
  readonly run: AnyRun;
  readonly arcs: readonly RingArc[];
  readonly total: number;
  /** What it is made of: `step`, `steps`. */
  readonly of: readonly [one: string, many: string];
  /** How it stands, as a chip. */
  readonly status: ReactNode;
  /** What happens now. */
  readonly now: string;
  readonly zone: string;
  readonly impact?: ReactNode;
  /** What can be done with it. */
  readonly children: ReactNode;
}

/** The head of a run's page: how far it has come, what happens now, who began it and why. */
export function RunHead({ run, arcs, total, of, status, now, zone, impact, children }: Props) {
  return (
    <header className={styles.head}>
      <Ring arcs={arcs} size={112} label={`${run.done} of ${count(total, ...of)} done`} unit={`of ${total}`}>
        {run.done}
      </Ring>
      <div className={styles.what}>
        <h1>{run.title}</h1>
        <p className={styles.now}>
          {status}
          <span aria-live="polite">{now}</span>
        </p>
        {impact}
        <p className={styles.by}>
          {run.actor}, {writeWhen(run.begunAt, zone)}
          {run.reason !== '' && `: ${run.reason}`}
        </p>
      </div>
      <div className={styles.actions}>{children}</div>
    </header>
  );
}

/** Stops a run, or has it go on. */
export function RunControls({
  run,
  of,
  act,
  end,
}: {
  readonly run: Pick<AnyRun, 'state' | 'failed'>;
  readonly of: Props['of'];
  readonly act: (verb: 'stop' | 'resume') => Promise<unknown>;
  /** Ends one that has stopped; undefined: it cannot be. */
  readonly end?: () => Promise<unknown>;
}) {
  const [problem, setProblem] = useState<string>();
  const [busy, setBusy] = useState(false);
  const press = async (work: () => Promise<unknown>): Promise<void> => {
    setBusy(true);
    try {
      await work();
      setProblem(undefined);
    } catch (error) {
      setProblem(whyOf(error));
    } finally {
      setBusy(false);
    }
  };
  return (
    <>
      {run.state === 'running' && (
        <Button
          isDisabled={busy}
          icon={<Square size={15} aria-hidden="true" />}
          onPress={() => void press(() => act('stop'))}
        >
          Stop
        </Button>
      )}
      {(run.state === 'stopped' || run.state === 'stopping') && (
        <Button
          kind="main"
          isDisabled={busy}
          icon={
            run.failed > 0 ? (
              <RotateCcw size={15} aria-hidden="true" />
            ) : (
              <Play size={15} aria-hidden="true" />
            )
          }
          onPress={() => void press(() => act('resume'))}
        >
          {run.failed > 0 ? `Try ${count(run.failed, ...of)} again` : 'Resume'}
        </Button>
      )}
      {run.state === 'stopped' && end && (
        <Button
          isDisabled={busy}
          icon={<CircleStop size={15} aria-hidden="true" />}
          onPress={() => void press(end)}
        >
          End without the rest
        </Button>
      )}
      {problem !== undefined && (
        <p role="alert" className={styles.problem}>
          {problem}
        </p>
      )}
    </>
  );
}
