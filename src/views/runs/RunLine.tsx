import type { Run } from '../../contract';
import { writeWhen } from '../../client/format';
import { Mark, type MarkLook } from '../../ui/Mark';
import { Progress } from '../../ui/Progress';
import styles from './RunLine.module.css';

/** A run on one line: whose, what, how far. */
export function RunLine({ run, mark }: { readonly run: Run; readonly mark?: MarkLook | undefined }) {
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
