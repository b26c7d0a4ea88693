import type { Difference } from '../../contract';
import { useState } from 'react';
import { count } from '../../client/format';
import { Button } from '../../ui/Button';
import { Chip } from '../../ui/Chip';
import { Panel } from '../../ui/Panel';
import type { Changing } from '../shared/changing';
import styles from './Environment.module.css';

const GROUPS = [
  { cause: 'not done yet', title: 'Not done yet', says: 'asked for here, and no run has got to it' },
  {
    cause: 'changed there',
    title: 'Changed at the provider',
    says: 'it was as wanted, and somebody changed it there',
  },
] as const;

type How = 'as wanted' | 'as present';

const idOf = (one: Difference): string => `${one.key} ${one.attribute ?? ''}`;

/** What is otherwise than wanted, each with how it shall be mended. */
export function Differences({
  differences,
  onChange,
}: {
  readonly differences: readonly Difference[];
  readonly onChange: ((changing: Changing) => void) | undefined;
}) {
  const [chosen, setChosen] = useState<Readonly<Record<string, How | undefined>>>({});
  if (differences.length === 0) return null;
  const mending = differences.flatMap((one) => {
    const how = chosen[idOf(one)];
    const { key, attribute } = one;
    return how === undefined ? [] : [{ key, ...(attribute === null ? {} : { attribute }), how }];
  });
  const all = (): void =>
    setChosen(Object.fromEntries(differences.map((one) => [idOf(one), 'as wanted' as const])));
  const groups = GROUPS.map((group) => ({
    ...group,
    own: differences.filter(({ cause }) => cause === group.cause),
  })).filter(({ own }) => own.length > 0);
  return (
    <Panel
      title={`${count(differences.length, 'difference', 'differences')} from what is wanted`}
      side={
        onChange && (
          <span className={styles.mend}>
            <Button onPress={all}>All as wanted</Button>
            <Button
              kind="main"
              isDisabled={mending.length === 0}
              onPress={() =>
                onChange({
                  kind: 'mend',
                  verb: 'Mend',
                  what: count(mending.length, 'difference', 'differences'),
                  input: { differences: mending },
                  done: () => setChosen({}),
                })
              }
            >
              Mend {mending.length > 0 && mending.length}…
            </Button>
          </span>
        )
      }
    >
      {groups.map(({ cause, title, says, own }) => (
        <section key={cause} className={styles.cause} aria-label={title}>
          <h3>
            {title} <small>{says}</small>
          </h3>
          <ul className={styles.differences}>
            {own.map((one) => (
              <li key={idOf(one)}>
                <span className="mono">{one.name}</span>
                <Chip tone="bad">{one.says}</Chip>
                {onChange && (
                  <fieldset>
                    <legend className="sr">{`${one.name} ${one.says}`}</legend>
                    <Choice
                      one={one}
                      how="as wanted"
                      label={wantedLabel(one)}
                      chosen={chosen}
                      onChoose={setChosen}
                    />
                    {one.takeable && (
                      <Choice
                        one={one}
                        how="as present"
                        label="take as it is"
                        chosen={chosen}
                        onChoose={setChosen}
                      />
                    )}
                  </fieldset>
                )}
              </li>
            ))}
          </ul>
        </section>
      ))}
    </Panel>
  );
}

const wantedLabel = (one: Difference): string =>
  one.what === 'extra'
    ? 'take it away'
    : one.what === 'missing'
      ? 'make it'
      : one.disturbs
        ? 'make as wanted, ends sessions'
        : 'make as wanted';

function Choice({
  one,
  how,
  label,
  chosen,
  onChoose,
}: {
  readonly one: Difference;
  readonly how: How;
  readonly label: string;
  readonly chosen: Readonly<Record<string, How | undefined>>;
  readonly onChoose: (chosen: Readonly<Record<string, How | undefined>>) => void;
}) {
  const on = chosen[idOf(one)] === how;
  return (
    <label>
      <input
        type="checkbox"
        checked={on}
        onChange={() => onChoose({ ...chosen, [idOf(one)]: on ? undefined : how })}
      />
      {label}
    </label>
  );
}
