import type { SessionCount } from '../../contract';
import { count } from '../../client/format';
import { Mark, type MarkLook } from '../../ui/Mark';
import styles from './Serve.module.css';

interface Props {
  /** The most first. */
  readonly counts: readonly SessionCount[];
  readonly marks: Readonly<Record<string, MarkLook>>;
  readonly chosen: string | undefined;
  readonly onChoose: (customer: string | undefined) => void;
}

/** So many customers are drawn; the others are found by text. */
const MOST = 12;

/** Each customer's sessions as a bar, active and idle; pressed, the list below is that customer's only. */
export function SessionStrip({ counts, marks, chosen, onChoose }: Props) {
  const shown = counts.slice(0, MOST);
  const most = Math.max(1, ...shown.map((one) => one.active + one.idle));
  return (
    <ul className={styles.strip} aria-label="Sessions by customer">
      {shown.map((one) => {
        const mark = marks[one.customer];
        const on = one.customer === chosen;
        return (
          <li key={one.customer}>
            <button
              type="button"
              aria-pressed={on}
              aria-label={`${one.customer}: ${count(one.active, 'active session', 'active sessions')}, ${one.idle} idle`}
              onClick={() => onChoose(on ? undefined : one.customer)}
            >
              {mark && <Mark mark={mark} size={30} />}
              <b>{one.active + one.idle}</b>
              <span className={styles.bar} aria-hidden="true">
                <span className={styles.active} style={{ width: `${(one.active / most) * 100}%` }} />
                <span className={styles.idle} style={{ width: `${(one.idle / most) * 100}%` }} />
              </span>
            </button>
          </li>
        );
      })}
      {counts.length > MOST && <li className={styles.others}>and {counts.length - MOST} more</li>}
    </ul>
  );
}
