import type { RunState, StopCause } from '../../core/runs';
import { writeWhen } from '../../client/format';
import { Mark, type MarkLook } from '../../ui/Mark';
import { Progress } from '../../ui/Progress';
import styles from './RunLine.module.css';

export interface RunShort {
  readonly id: string;
  readonly customer: string;
  readonly environment: string | null;
  readonly environmentId: string | null;
  readonly kind: string;
  readonly title: string;
  readonly state: RunState;
  readonly cause: StopCause | null;
  readonly steps: number;
  readonly done: number;
  readonly failed: number;
  readonly expectedSeconds: number;
  readonly actor: string;
  readonly reason: string;
  readonly begunAt: number;
  readonly endedAt: number | null;
}

/** A run on one line: whose, what, how far. */
export function RunLine({ run, mark }: { readonly run: RunShort; readonly mark?: MarkLook | undefined }) {
  return (
    <a className={styles.line} href={`/customers/${run.customer}/runs/${run.id}`}>
      {mark && <Mark mark={mark} size={26} />}
      <span className={styles.what}>
        {run.title}
        {run.state === 'done' ? (
          <small>
            {run.actor}, {writeWhen(run.endedAt ?? run.begunAt, 'UTC')}
          </small>
        ) : (
          <Progress
            done={run.done}
            failed={run.failed}
            total={run.steps}
            label={`${run.done} of ${run.steps} steps`}
          />
        )}
      </span>
      {run.state !== 'done' && (
        <span className={styles.count}>
          {run.done}/{run.steps}
        </span>
      )}
    </a>
  );
}
