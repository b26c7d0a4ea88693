import type { Page, TrailEntry } from '../../contract';
import { useList } from '../../client/list';
import { Button } from '../../ui/Button';
import type { MarkLook } from '../../ui/Mark';
import { Empty, Panel } from '../../ui/Panel';
import { Entry } from './Entry';
import styles from './Trail.module.css';

interface Props {
  /** The API path of the trail that is shown, and of its live events. */
  readonly path: string;
  readonly events: string;
  readonly initial: Page<TrailEntry>;
  readonly zone: string;
  /** Marks by code: on pages across customers, where entries name their customer. */
  readonly marks?: Readonly<Record<string, MarkLook>>;
}

const CONCERNS = ['run', 'people', 'clock'];

/** Who did what, newest first; each entry opens to what was before and after. */
export function Trail({ path, events, initial, zone, marks }: Props) {
  const list = useList<TrailEntry>(path, initial, events, (change) => CONCERNS.includes(change.topic));
  return (
    <Panel title="Trail" flush>
      <div className={styles.find}>
        <input
          type="search"
          aria-label="Find in the trail"
          placeholder="Find who, what or which"
          value={list.find}
          onChange={(event) => list.setFind(event.target.value)}
        />
      </div>
      {list.entries.length === 0 ? (
        <Empty
          says={
            list.find === ''
              ? 'Nothing is on the trail here.'
              : `Nothing on the trail matches “${list.find}”.`
          }
        />
      ) : (
        <ol className={styles.trail} data-across={marks !== undefined || undefined}>
          {list.entries.map((entry) => (
            <li key={entry.id}>
              <Entry
                path={path}
                entry={entry}
                zone={zone}
                across={marks !== undefined}
                mark={entry.customer === null ? undefined : marks?.[entry.customer]}
              />
            </li>
          ))}
        </ol>
      )}
      {!list.whole && (
        <div className={styles.more}>
          <Button onPress={list.more}>Earlier</Button>
        </div>
      )}
    </Panel>
  );
}
