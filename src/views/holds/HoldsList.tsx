import type { Hold } from '../../contract';
import { writeWhen } from '../../client/format';
import { Panel } from '../../ui/Panel';
import styles from './Held.module.css';

/** Proposals that are held for a customer, each a way to where it is begun. */
export function HoldsList({
  code,
  holds,
  zone,
}: {
  readonly code: string;
  readonly holds: readonly Hold[];
  readonly zone: string;
}) {
  if (holds.length === 0) return null;
  return (
    <div className={styles.above}>
      <Panel title={holds.length === 1 ? 'A held proposal' : `${holds.length} held proposals`}>
        <ul className={styles.list}>
          {holds.map((hold) => (
            <li key={hold.id}>
              <a href={`/customers/${code}/holds/${hold.id}`}>{hold.title}</a>
              <small>
                {hold.waits !== null && 'waits for a lead; '}
                {hold.actor}, until {writeWhen(hold.until, zone)}
                {hold.reason !== '' && `: ${hold.reason}`}
              </small>
            </li>
          ))}
        </ul>
      </Panel>
    </div>
  );
}
