import { useState } from 'react';
import type { Sizing } from '../../contract';
import { WORK_PROFILES, type ProfileNeed } from '../../core/sizing';
import { newKey, send, whyOf } from '../../client/api';
import { Button } from '../../ui/Button';
import { TextField } from '../../ui/Field';
import { Panel } from '../../ui/Panel';
import styles from './Bench.module.css';

interface Props {
  readonly code: string;
  readonly sizing: Sizing;
  readonly mayChange: boolean;
  readonly onKept: (sizing: Sizing) => void;
}

const FIGURES = [
  { key: 'peoplePerVcpu', title: 'People a vCPU' },
  { key: 'memoryGiB', title: 'Memory, GiB' },
  { key: 'diskOperations', title: 'Disk operations a second' },
] as const;

type Typed = Readonly<Record<(typeof FIGURES)[number]['key'] | 'source', string>>;

/** What one person of each kind of work takes here, and where the figures come from. */
export function Needs({ code, sizing, mayChange, onKept }: Props) {
  const [editing, setEditing] = useState<ProfileNeed['key']>();
  const [typed, setTyped] = useState<Typed>({
    peoplePerVcpu: '',
    memoryGiB: '',
    diskOperations: '',
    source: '',
  });
  const [problem, setProblem] = useState<string>();
  const keep = async (needs: readonly ProfileNeed[]): Promise<void> => {
    try {
      onKept(
        await send(
          'PUT',
          '/customers/{customer}/profiles',
          { customer: code },
          { body: { needs: [...needs] }, key: newKey() },
        ),
      );
      setEditing(undefined);
      setProblem(undefined);
    } catch (error) {
      setProblem(whyOf(error));
    }
  };
  const own = sizing.needs.filter((one) => one.source !== '');
  const open = (need: ProfileNeed): void => {
    setEditing(need.key);
    setProblem(undefined);
    setTyped({
      peoplePerVcpu: String(need.peoplePerVcpu),
      memoryGiB: String(need.memoryGiB),
      diskOperations: String(need.diskOperations),
      source: need.source,
    });
  };
  return (
    <Panel title="What work takes here">
      <table className={styles.needs}>
        <thead>
          <tr>
            <th scope="col">Work</th>
            {FIGURES.map(({ key, title }) => (
              <th key={key} scope="col">
                {title}
              </th>
            ))}
            <th scope="col" className={styles.source}>
              From
            </th>
            <th scope="col">
              <span className="sr">Change</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {sizing.needs.map((need) => (
            <tr key={need.key}>
              <th scope="row">{need.key}</th>
              {FIGURES.map(({ key }) => (
                <td key={key}>
                  {need[key]}
                  {need[key] !== WORK_PROFILES[need.key][key] && (
                    <small> usually {WORK_PROFILES[need.key][key]}</small>
                  )}
                </td>
              ))}
              <td className={styles.source}>{need.source === '' ? 'as usual' : need.source}</td>
              <td>
                {mayChange && (
                  <Button kind="quiet" aria-label={`Change ${need.key}`} onPress={() => open(need)}>
                    Change
                  </Button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {editing && (
        <form
          className={styles.pair}
          onSubmit={(event) => {
            event.preventDefault();
            void keep([...own.filter((one) => one.key !== editing), needFrom(editing, typed)]);
          }}
        >
          {FIGURES.map(({ key, title }) => (
            <TextField
              key={key}
              label={`${title}, ${editing}`}
              inputMode="decimal"
              value={typed[key]}
              onChange={(event) => setTyped({ ...typed, [key]: event.target.value })}
            />
          ))}
          <TextField
            label="Where the figures come from"
            value={typed.source}
            onChange={(event) => setTyped({ ...typed, source: event.target.value })}
          />
          <div className={styles.actions}>
            <Button onPress={() => setEditing(undefined)}>Back</Button>
            {own.some((one) => one.key === editing) && (
              <Button onPress={() => void keep(own.filter((one) => one.key !== editing))}>
                As usual again
              </Button>
            )}
            <Button kind="main" type="submit">
              Keep
            </Button>
          </div>
          {problem !== undefined && (
            <p role="alert" className={styles.problem}>
              {problem}
            </p>
          )}
        </form>
      )}
    </Panel>
  );
}

const needFrom = (key: ProfileNeed['key'], typed: Typed): ProfileNeed => ({
  key,
  peoplePerVcpu: Number(typed.peoplePerVcpu.replace(',', '.')),
  memoryGiB: Number(typed.memoryGiB.replace(',', '.')),
  diskOperations: Number(typed.diskOperations.replace(',', '.')),
  source: typed.source,
});
