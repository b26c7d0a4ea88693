import { EyeOff } from 'lucide-react';
import { inFolders, isOn, programOf } from '../../core/items';
import { Chip } from '../../ui/Chip';
import { ItemIcon } from '../shared/ItemIcon';
import { goneOf, stateOf, type Draft, type PublishedPool } from './edit';
import styles from './Published.module.css';

interface Props {
  readonly draft: Draft;
  readonly pool: PublishedPool;
  readonly faults: Readonly<Record<string, string>>;
  readonly onChoose: (at: number) => void;
}

/** The items as people find them, under their headings; one is chosen. */
export function ItemList({ draft, pool, faults, onChoose }: Props) {
  const all = draft.items.map((item, n) => ({ ...item, folder: item.folder ?? '', n }));
  const gone = goneOf(draft.items, pool);
  return (
    <div className={styles.list}>
      {inFolders(all).map(({ folder, items }) => (
        <section key={folder} aria-label={folder === '' ? 'Under no heading' : folder}>
          {folder !== '' && <h3>{folder}</h3>}
          <ul>
            {items.map(({ n, ...item }) => (
              <li key={n}>
                <button
                  type="button"
                  className={styles.tile}
                  aria-pressed={n === draft.at}
                  data-hidden={item.hidden === true}
                  onClick={() => onChoose(n)}
                >
                  <ItemIcon item={item} size={40} />
                  <span>
                    <b>{item.name === '' ? 'No name yet' : item.name}</b>
                    <small>
                      {item.was !== undefined && item.was !== item.name && `until now ${item.was} · `}
                      {item.kind === 'desktop' ? 'the whole desktop' : `starts ${programOf(item)}`}
                      {item.arguments !== undefined && ` ${item.arguments}`}
                    </small>
                  </span>
                  {item.hidden === true && <EyeOff size={16} aria-label="not shown on desks" />}
                  <Sign
                    isFaulty={Object.keys(faults).some((key) => key.startsWith(`${n}.`))}
                    state={stateOf(draft.items[n] ?? item, pool)}
                    isMissing={
                      item.kind === 'app' &&
                      pool.found.length > 0 &&
                      !isOn(
                        item,
                        pool.found.map(({ name }) => name),
                      )
                    }
                  />
                </button>
              </li>
            ))}
          </ul>
        </section>
      ))}
      {gone.length > 0 && <p className={styles.quiet}>No more: {gone.map(({ name }) => name).join(', ')}</p>}
    </div>
  );
}

function Sign({
  isFaulty,
  isMissing,
  state,
}: {
  readonly isFaulty: boolean;
  readonly isMissing: boolean;
  readonly state: ReturnType<typeof stateOf>;
}) {
  if (isFaulty) return <Chip tone="bad">not ready</Chip>;
  if (isMissing) return <Chip tone="care">not on the image</Chip>;
  if (state === 'same') return null;
  return <Chip tone="busy">{state}</Chip>;
}
