import type { Site, Watch as WatchData } from '../../contract';
import { useLive } from '../../client/live';
import { WATCH } from '../shared/questions';
import { Few } from './Few';
import { Many } from './Many';
import { MANY } from './threshold';
import styles from './Watch.module.css';

const CONCERNS = ['summary', 'run', 'ground'];

/** Is everything all right, and where not? */
export function Watch({
  initial,
  count,
  sites,
  mayMark,
}: {
  readonly initial: WatchData;
  /** Of a large fleet only those that need a look come with the page: how many there are. */
  readonly count: number;
  /** Shown where there are few customers. */
  readonly sites: readonly Site[];
  /** Whether one may say of something that one is on it. */
  readonly mayMark: boolean;
}) {
  const { value, again } = useLive(WATCH, initial, '/events', (change) => CONCERNS.includes(change.topic));
  return (
    <div className={styles.page}>
      <h1 className="sr">Watch</h1>
      {count > MANY ? (
        <Many value={value} count={count} mayMark={mayMark} onMarked={again} />
      ) : (
        <Few value={value} sites={sites} mayMark={mayMark} onMarked={again} />
      )}
    </div>
  );
}
