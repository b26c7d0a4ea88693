import { useState } from 'react';
import { readRecipe, secretsIn } from '../../core/recipes';
import { get, newKey, send, whyOf } from '../../client/api';
import { writeWhen } from '../../client/format';
import { useLive } from '../../client/live';
import { Button } from '../../ui/Button';
import { Chip } from '../../ui/Chip';
import { TextField } from '../../ui/Field';
import styles from './Recipe.module.css';

const isName = (name: string): boolean => /^[a-z][a-z0-9-]{0,31}$/.test(name);

/** Which secrets of its owner's a recipe names and whether they are kept. One that is kept is never shown again. */
export default function Secrets({ owner, recipe }: { readonly owner: string; readonly recipe: string }) {
  const own = { customer: owner };
  const { value, again } = useLive(
    { key: `recipe secrets ${owner}`, read: () => get('/customers/{customer}/recipe-secrets', own) },
    { secrets: [] },
    '/events',
    (change) => change.topic === 'ground',
  );
  const [name, setName] = useState('');
  const [secret, setSecret] = useState('');
  const [problem, setProblem] = useState<string>();
  const steps = readRecipe(recipe);
  const named = steps.ok ? secretsIn(steps.value) : [];
  const missing = named.filter((one) => !value.secrets.some((kept) => kept.name === one));
  const wanted = name === '' ? (missing[0] ?? '') : name;
  const act = async (work: () => Promise<unknown>): Promise<void> => {
    setProblem(undefined);
    try {
      await work();
      setName('');
      setSecret('');
      again();
    } catch (error) {
      setProblem(whyOf(error));
    }
  };
  const path = '/customers/{customer}/recipe-secrets/{secret}' as const;
  return (
    <section className={styles.secrets} aria-label="Secrets">
      <h3>
        Secrets <small>a step says {'{secret:name}'}; what is kept is never shown again</small>
      </h3>
      <ul>
        {missing.map((one) => (
          <li key={one}>
            <code>{one}</code> <Chip tone="bad">named in the recipe, not kept</Chip>
          </li>
        ))}
        {value.secrets.map((one) => (
          <li key={one.name}>
            <code>{one.name}</code>
            <small>
              {one.by}, {writeWhen(one.at, 'UTC')}
            </small>
            {named.includes(one.name) ? (
              <Chip tone="good">named in the recipe</Chip>
            ) : (
              <Button
                kind="quiet"
                onPress={() =>
                  void act(() => send('DELETE', path, { ...own, secret: one.name }, { key: newKey() }))
                }
              >
                Drop
              </Button>
            )}
          </li>
        ))}
      </ul>
      <div className={styles.keepSecret}>
        <TextField
          label="Name of the secret"
          value={wanted}
          autoComplete="off"
          placeholder="like licence-key"
          error={
            wanted === '' || isName(wanted) ? undefined : 'small letters, digits and hyphens, a letter first'
          }
          onChange={(event) => setName(event.target.value.toLowerCase())}
        />
        <TextField
          label="The secret"
          type="password"
          value={secret}
          autoComplete="new-password"
          error={problem}
          onChange={(event) => setSecret(event.target.value)}
        />
        <Button
          isDisabled={!isName(wanted) || secret === ''}
          onPress={() =>
            void act(() => send('PUT', path, { ...own, secret: wanted }, { body: { secret }, key: newKey() }))
          }
        >
          Keep it
        </Button>
      </div>
    </section>
  );
}
