import { useState } from 'react';
import { BookmarkPlus, X } from 'lucide-react';
import type { SavedView } from '../../contract';
import { newKey, send, whyOf } from '../../client/api';
import { Button } from '../../ui/Button';
import { TextField } from '../../ui/Field';
import type { Choice } from './facts';
import styles from './Provision.module.css';

/** What is kept of a choice: all but the name, which is each environment's own. */
const kept = ({ environment: _environment, ...choice }: Choice): string => JSON.stringify(choice);

/** What was kept, as far as it can be read: it may have been kept by another program. */
function readKept(query: string): Partial<Choice> {
  try {
    const read = JSON.parse(query) as Partial<Choice> | null;
    return typeof read === 'object' &&
      read !== null &&
      Array.isArray(read.pools) &&
      Array.isArray(read.inputs)
      ? read
      : {};
  } catch {
    return {};
  }
}

/** Choices that were kept under a name: pressed, they are chosen again. */
export function Usual({
  views: first,
  choice,
  onChoose,
}: {
  readonly views: readonly SavedView[];
  readonly choice: Choice;
  readonly onChoose: (choice: Partial<Choice>) => void;
}) {
  const [views, setViews] = useState(first);
  const [name, setName] = useState<string>();
  const [problem, setProblem] = useState<string>();
  const act = async (work: () => Promise<readonly SavedView[]>): Promise<void> => {
    setProblem(undefined);
    try {
      setViews(await work());
      setName(undefined);
    } catch (error) {
      setProblem(whyOf(error));
    }
  };
  const keep = (): Promise<void> =>
    act(async () => {
      const body = { page: 'provision' as const, name: name ?? '', query: kept(choice) };
      return (await send('PUT', '/saved-views', {}, { body, key: newKey() })).views;
    });
  const drop = (gone: string): Promise<void> =>
    act(async () => {
      await send('DELETE', '/saved-views', {}, { query: { page: 'provision', name: gone }, key: newKey() });
      return views.filter((one) => one.name !== gone);
    });
  return (
    <div className={styles.usual} role="group" aria-label="My usual choices">
      {views.map((one) => (
        <span key={one.name} data-on={one.query === kept(choice) || undefined}>
          <button type="button" onClick={() => onChoose(readKept(one.query))}>
            {one.name}
          </button>
          <button type="button" aria-label={`Keep ${one.name} no longer`} onClick={() => void drop(one.name)}>
            <X size={13} aria-hidden="true" />
          </button>
        </span>
      ))}
      {name === undefined ? (
        <Button icon={<BookmarkPlus size={14} aria-hidden="true" />} onPress={() => setName('My usual')}>
          Keep this choice
        </Button>
      ) : (
        <div className={styles.keep}>
          <TextField
            label="Kept as"
            value={name}
            autoFocus
            autoComplete="off"
            error={problem}
            onChange={(event) => setName(event.target.value)}
          />
          <Button isDisabled={name.trim() === ''} onPress={() => void keep()}>
            Keep
          </Button>
        </div>
      )}
    </div>
  );
}
