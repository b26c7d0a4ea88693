import type { ParentRun } from '../../contract';
import { writeWhen } from '../../client/format';
import { Panel } from '../../ui/Panel';
import { Progress } from '../../ui/Progress';
import { ParentStatus } from './ParentStatus';
import styles from './ParentList.module.css';

/** The last parent runs, with how far each has come; nothing where there are none. */
export function ParentList({ runs }: { readonly runs: readonly ParentRun[] }) {
  if (runs.length === 0) return null;
  return (
    <div className={styles.over}>
      <Panel title="Runs with several parts">
        <ul className={styles.list}>
          {runs.map((run) => (
            <li key={run.id}>
              <a href={`/runs/${run.id}`}>{run.title}</a>
              <ParentStatus run={run} />
              <span className={styles.far}>
                {run.done} of {run.parts}
                {run.failed > 0 && `, ${run.failed} failed`}
                <Progress
                  done={run.done}
                  failed={run.failed}
                  total={run.parts}
                  label={`${run.done} of ${run.parts} done`}
                />
              </span>
              <small>
                {run.actor}, {writeWhen(run.begunAt, 'UTC')}
              </small>
            </li>
          ))}
        </ul>
      </Panel>
    </div>
  );
}
