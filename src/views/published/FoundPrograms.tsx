import { Plus } from 'lucide-react';
import { programOf } from '../../core/items';
import { ItemIcon } from '../shared/ItemIcon';
import { Button } from '../../ui/Button';
import { freeName, withItem, type Draft, type PublishedPool } from './edit';
import styles from './Published.module.css';

interface Props {
  readonly pool: PublishedPool;
  readonly draft: Draft;
  readonly onEdit: (draft: Draft) => void;
}

/** What is on the image and may be published, once or several times; and what is given by hand. */
export function FoundPrograms({ pool, draft, onEdit }: Props) {
  const times = (name: string): number =>
    draft.items.filter((item) => item.kind === 'app' && programOf(item) === name).length;
  const add = (program: string): void => {
    const name = freeName(draft.items, program);
    onEdit(withItem(draft, { name, kind: 'app', ...(name === program ? {} : { starts: program }) }));
  };
  const hasDesktop = draft.items.some(({ kind }) => kind === 'desktop');
  return (
    <div className={styles.found}>
      <h3>
        On the image <span className="mono">{pool.image}</span>
      </h3>
      {pool.found.length === 0 && (
        <p className={styles.quiet}>
          It is the provider’s own, and nobody tells what is on it. Give apps by hand.
        </p>
      )}
      <ul>
        {pool.found.map(({ name, version }) => (
          <li key={name}>
            <button type="button" onClick={() => add(name)} aria-label={`Add ${name}`}>
              <ItemIcon item={{ name, kind: 'app' }} size={28} />
              <span>
                {name}
                <small>
                  {version}
                  {times(name) > 0 && ` · published ${times(name) === 1 ? 'once' : `${times(name)} times`}`}
                </small>
              </span>
              <Plus size={16} aria-hidden="true" />
            </button>
          </li>
        ))}
      </ul>
      <div className={styles.buttons}>
        <Button
          onPress={() => onEdit(withItem(draft, { name: freeName(draft.items, 'New app'), kind: 'app' }))}
        >
          Add an app by hand
        </Button>
        {!hasDesktop && (
          <Button
            onPress={() =>
              onEdit(withItem(draft, { name: freeName(draft.items, 'Full desktop'), kind: 'desktop' }))
            }
          >
            Add the full desktop
          </Button>
        )}
      </div>
    </div>
  );
}
