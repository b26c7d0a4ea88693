import { lazy, Suspense, useMemo, useState } from 'react';
import { readRecipe, STEP_VERB_KEYS, writeRecipe, type RecipeStep } from '../../core/recipes';
import { Button } from '../../ui/Button';
import { useInBrowser } from '../shared/use-in-browser';
import type { YamlKeys } from '../shared/YamlEditor';
import { RecipeList } from './RecipeList';
import styles from './Recipe.module.css';

const YamlEditor = lazy(() => import('../shared/YamlEditor'));

const KEYS: YamlKeys = { '': ['steps'], steps: [...STEP_VERB_KEYS, 'to', 'holds', 'minutes', 'tries'] };

interface Props {
  readonly before: string;
  /** Names of saved steps that it may use. */
  readonly saved: readonly string[];
  /** Undefined: it is part of a form, which keeps it. */
  readonly onKeep?: (recipe: string) => void;
  readonly onText?: (recipe: string) => void;
}

/** A recipe in two sights of one document: as a list to drag and fill in, and as text with what is wrong at its line. */
export default function RecipeEditor({ before, saved, onKeep, onText }: Props) {
  const [text, setText] = useState(before);
  const [sight, setSight] = useState<'list' | 'text'>('list');
  const inBrowser = useInBrowser();
  const read = useMemo(() => readRecipe(text), [text]);
  const change = (next: string): void => {
    setText(next);
    onText?.(next);
  };
  const steps = (next: readonly RecipeStep[]): void => change(writeRecipe(next));
  const faults = read.ok ? [] : read.problem;
  return (
    <div className={styles.recipe}>
      <div className={styles.sights} role="group" aria-label="How it is shown">
        <button type="button" aria-pressed={sight === 'list'} onClick={() => setSight('list')}>
          List
        </button>
        <button type="button" aria-pressed={sight === 'text'} onClick={() => setSight('text')}>
          Text
        </button>
        {onKeep && (
          <span className={styles.keep}>
            <Button kind="main" isDisabled={!read.ok || text === before} onPress={() => onKeep(text)}>
              Keep it…
            </Button>
          </span>
        )}
      </div>
      {sight === 'list' && read.ok && <RecipeList steps={read.value} saved={saved} onChange={steps} />}
      {sight === 'list' && !read.ok && (
        <p className={styles.none}>
          As it is written it cannot be shown as a list: line {faults[0]?.line ?? 1}, {faults[0]?.says ?? ''}.
        </p>
      )}
      {sight === 'text' && inBrowser && (
        <Suspense fallback={<p>Opening the editor …</p>}>
          <YamlEditor
            text={text}
            onText={change}
            faults={faults}
            keys={KEYS}
            label="The recipe as YAML"
            height="380px"
          />
        </Suspense>
      )}
      {sight === 'text' && faults.length > 0 && (
        <ul className={styles.faults} aria-live="polite">
          {faults.slice(0, 5).map((fault) => (
            <li key={`${fault.line} ${fault.column} ${fault.says}`}>
              line {fault.line}: {fault.says}
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}
