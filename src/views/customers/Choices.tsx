import { useState } from 'react';
import { BookmarkPlus, X } from 'lucide-react';
import type { CustomerSummary, SavedView } from '../../contract';
import { newKey, send, whyOf } from '../../client/api';
import { Button } from '../../ui/Button';
import { CheckField, SelectField, TextField } from '../../ui/Field';
import { choiceOf, choicesOf, queryOf, type Choice } from './choice';
import styles from './Choices.module.css';

interface Props {
  readonly customers: readonly CustomerSummary[];
  readonly choice: Choice;
  readonly onChoice: (choice: Choice) => void;
  readonly views: readonly SavedView[];
}

const LABELS = { plan: 'Plan', site: 'Home site', state: 'Status', tag: 'Tag' } as const;

/** Which of them are shown; a choice that is made often is kept under a name. */
export function Choices({ customers, choice, onChoice, views: first }: Props) {
  const [views, setViews] = useState(first);
  const [name, setName] = useState('');
  const [problem, setProblem] = useState<string>();
  const all = choicesOf(customers);
  const query = queryOf(choice);
  const isKept = views.some((one) => one.query === query);
  const act = async (work: () => Promise<readonly SavedView[]>): Promise<void> => {
    setProblem(undefined);
    try {
      setViews(await work());
      setName('');
    } catch (error) {
      setProblem(whyOf(error));
    }
  };
  const keep = (): Promise<void> =>
    act(async () => {
      const body = { page: 'customers' as const, name, query };
      return (await send('PUT', '/saved-views', {}, { body, key: newKey() })).views;
    });
  const drop = (gone: string): Promise<void> =>
    act(async () => {
      await send('DELETE', '/saved-views', {}, { query: { page: 'customers', name: gone }, key: newKey() });
      return views.filter((one) => one.name !== gone);
    });
  return (
    <div className={styles.choices}>
      <div className={styles.fields}>
        {(['plan', 'site', 'state', 'tag'] as const).map((field) =>
          all[field].length < 2 && choice[field] === undefined ? null : (
            <SelectField
              key={field}
              label={LABELS[field]}
              value={choice[field] ?? ''}
              onChange={(event) => onChoice(choiceOf(queryOf({ ...choice, [field]: event.target.value })))}
            >
              <option value="">all</option>
              {all[field].map(({ value, count }) => (
                <option key={value} value={value}>
                  {value} ({count})
                </option>
              ))}
              {choice[field] !== undefined && !all[field].some(({ value }) => value === choice[field]) && (
                <option value={choice[field]}>{choice[field]} (0)</option>
              )}
            </SelectField>
          ),
        )}
        <CheckField
          label="Needs a look"
          checked={choice.need === true}
          onChange={(event) => onChoice(choiceOf(queryOf({ ...choice, need: event.target.checked })))}
        />
      </div>
      {(views.length > 0 || query !== '') && (
        <div className={styles.views} role="group" aria-label="Views">
          {views.map((one) => (
            <span key={one.name} className={styles.view} data-on={one.query === query || undefined}>
              <button
                type="button"
                aria-pressed={one.query === query}
                onClick={() => onChoice(choiceOf(one.query))}
              >
                {one.name}
              </button>
              <button
                type="button"
                aria-label={`Keep ${one.name} no longer`}
                onClick={() => void drop(one.name)}
              >
                <X size={13} aria-hidden="true" />
              </button>
            </span>
          ))}
          {query !== '' && (
            <>
              <Button kind="quiet" onPress={() => onChoice({})}>
                Show all
              </Button>
              {!isKept && (
                <form
                  className={styles.keep}
                  onSubmit={(event) => {
                    event.preventDefault();
                    if (name.trim() !== '') void keep();
                  }}
                >
                  <TextField
                    label="Keep this view as"
                    value={name}
                    maxLength={60}
                    onChange={(event) => setName(event.target.value)}
                  />
                  <Button
                    type="submit"
                    isDisabled={name.trim() === ''}
                    icon={<BookmarkPlus size={15} aria-hidden="true" />}
                  >
                    Keep
                  </Button>
                </form>
              )}
            </>
          )}
        </div>
      )}
      {problem !== undefined && (
        <p role="alert" className={styles.problem}>
          {problem}
        </p>
      )}
    </div>
  );
}
