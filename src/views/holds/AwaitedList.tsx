import type { Awaited } from '../../contract';
import { writeWhen } from '../../client/format';
import { Mark, type MarkLook } from '../../ui/Mark';
import { Panel } from '../../ui/Panel';
import styles from './Held.module.css';

/** What waits for a lead's word, across customers, each a way to where it is given. */
export function AwaitedList({
  awaited,
  marks,
}: {
  readonly awaited: readonly Awaited[];
  readonly marks: Readonly<Record<string, MarkLook>>;
}) {
  if (awaited.length === 0) return null;
  return (
    <div className={styles.above}>
      <Panel title={awaited.length === 1 ? 'One waits for a lead' : `${awaited.length} wait for a lead`}>
        <ul className={styles.list}>
          {awaited.map(({ customer, hold }) => (
            <li key={hold.id}>
              <span className={styles.whose}>
                {marks[customer] ? <Mark mark={marks[customer]} size={26} /> : customer}
                <a href={`/customers/${customer}/holds/${hold.id}`}>{hold.title}</a>
              </span>
              <small>
                {hold.actor}, until {writeWhen(hold.until, 'UTC')} UTC
                {hold.reason !== '' && `: ${hold.reason}`}
              </small>
            </li>
          ))}
        </ul>
      </Panel>
    </div>
  );
}
