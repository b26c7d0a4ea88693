import { useState } from 'react';
import type { SavedStepsView } from '../../contract';
import { OWN_CODE } from '../../contract/own-code';
import { namesUsed, readRecipe, readSaved, stepLine } from '../../core/recipes';
import { ApiProblem, newKey, send, whyOf } from '../../client/api';
import { count, writeWhen } from '../../client/format';
import { storedAs, type Stored } from '../../client/stored';
import { Button } from '../../ui/Button';
import { Chip } from '../../ui/Chip';
import { LongField, TextField } from '../../ui/Field';
import styles from './Recipe.module.css';
import { useSaved } from './use-saved';

const FIRST = 'steps:\n  - install: Ostrel updates newest\n';
const PATH = '/customers/{customer}/saved-steps/{name}' as const;

interface Draft {
  readonly name: string;
  readonly text: string;
  /** Of those that are changed, and not saved for the first time. */
  readonly isKnown: boolean;
  /** What was saved when the change began. */
  readonly first: Stored;
}

/** Steps that recipes share by name: what they are, which images use them, and where they are changed. */
export default function Saved({ owner, recipe }: { readonly owner: string; readonly recipe: string }) {
  const { saved, again } = useSaved(owner);
  const [draft, setDraft] = useState<Draft>();
  const [problem, setProblem] = useState<string>();
  const steps = readRecipe(recipe);
  const used = steps.ok ? namesUsed(steps.value) : [];
  const missing = used.filter((name) => !saved.some((one) => one.name === name));
  const act = async (work: () => Promise<unknown>): Promise<void> => {
    setProblem(undefined);
    try {
      await work();
      setDraft(undefined);
      again();
    } catch (error) {
      const [named] = error instanceof ApiProblem ? Object.values(error.fields) : [];
      setProblem(named ?? whyOf(error));
    }
  };
  const edit = (one: Draft): void => {
    setProblem(undefined);
    setDraft(one);
  };
  const keep = ({ name, text, first }: Draft): Promise<void> =>
    act(() => send('PUT', PATH, { customer: owner, name }, { body: { text }, key: newKey(), stored: first }));
  return (
    <section className={styles.secrets} aria-label="Saved steps">
      <h3>
        Saved steps <small>a step says “use” and their name; a change is in what is built next</small>
      </h3>
      <ul>
        {missing.map((name) => (
          <li key={name}>
            <code>{name}</code> <Chip tone="bad">used in the recipe, not kept</Chip>
          </li>
        ))}
        {saved.map((one) => (
          <li key={one.name}>
            <code>{one.name}</code>
            <span>{linesOf(one.text).join(', ')}</span>
            <small>{aboutOf(one, owner)}</small>
            {used.includes(one.name) && <Chip tone="good">used here</Chip>}
            {(one.own || owner === OWN_CODE) && (
              <span className={styles.savedActs}>
                <Button
                  kind="quiet"
                  onPress={() => edit({ ...one, isKnown: true, first: storedAs({ text: one.text }) })}
                >
                  Change
                </Button>
                {one.usedBy.length === 0 && (
                  <Button
                    kind="quiet"
                    onPress={() =>
                      void act(() =>
                        send('DELETE', PATH, { customer: owner, name: one.name }, { key: newKey() }),
                      )
                    }
                  >
                    Drop
                  </Button>
                )}
              </span>
            )}
          </li>
        ))}
      </ul>
      {draft ? (
        <SavedForm
          draft={draft}
          problem={problem}
          usedBy={saved.find((one) => one.name === draft.name)?.usedBy ?? []}
          onDraft={setDraft}
          onBack={() => setDraft(undefined)}
          onKeep={() => void keep(draft)}
        />
      ) : (
        <>
          {problem !== undefined && (
            <p role="alert" className={styles.problem}>
              {problem}
            </p>
          )}
          <Button onPress={() => edit({ name: '', text: FIRST, isKnown: false, first: storedAs(null) })}>
            Save steps
          </Button>
        </>
      )}
    </section>
  );
}

function SavedForm({
  draft,
  problem,
  usedBy,
  onDraft,
  onBack,
  onKeep,
}: {
  readonly draft: Draft;
  readonly problem: string | undefined;
  readonly usedBy: readonly string[];
  readonly onDraft: (draft: Draft) => void;
  readonly onBack: () => void;
  readonly onKeep: () => void;
}) {
  const read = readSaved(draft.text);
  const fault = read.ok ? undefined : `line ${read.problem[0]?.line ?? 1}: ${read.problem[0]?.says ?? ''}`;
  const isNamed = /^[a-z][a-z0-9-]{0,31}$/.test(draft.name);
  return (
    <div className={styles.savedForm}>
      <TextField
        label="Name of the steps"
        value={draft.name}
        readOnly={draft.isKnown}
        autoComplete="off"
        spellCheck={false}
        placeholder="like base-settings"
        error={draft.name === '' || isNamed ? undefined : 'small letters, digits and hyphens, a letter first'}
        onChange={(event) => onDraft({ ...draft, name: event.target.value.toLowerCase() })}
      />
      <LongField
        label="The steps, as YAML"
        mono
        rows={Math.min(16, draft.text.split('\n').length + 2)}
        value={draft.text}
        error={problem ?? fault}
        help={usedBy.length > 0 && `${usedBy.join(', ')}: from the next version on`}
        onChange={(event) => onDraft({ ...draft, text: event.target.value })}
      />
      <div className={styles.savedActs}>
        <Button onPress={onBack}>Back</Button>
        <Button kind="main" isDisabled={!isNamed || !read.ok} onPress={onKeep}>
          Keep them
        </Button>
      </div>
    </div>
  );
}

const linesOf = (text: string): string[] => {
  const read = readSaved(text);
  return read.ok ? read.value.map(stepLine) : [];
};

const aboutOf = ({ own, usedBy, by, at }: SavedStepsView, owner: string): string =>
  [
    ...(own && owner !== OWN_CODE ? ['their own'] : []),
    usedBy.length === 0 ? 'not used' : `in ${count(usedBy.length, 'image', 'images')}`,
    `${by}, ${writeWhen(at, 'UTC')}`,
  ].join(' · ');
