import { useState } from 'react';
import type { Sizing } from '../../contract';
import { WORK_PROFILES, type ProfileNeed } from '../../core/sizing';
import { newKey, send, whyOf } from '../../client/api';
import { useStored } from '../../client/stored';
import { checkedAs, numberOrNull, usePageForm } from '../../client/form';
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
  { key: 'graphicsGiB', title: 'Graphics, GiB' },
] as const;

/** What one person of each kind of work takes here, and where the figures come from. */
export function Needs({ code, sizing, mayChange, onKept }: Props) {
  const [editing, setEditing] = useState<ProfileNeed>();
  const [problem, setProblem] = useState<string>();
  const stored = useStored({ needs: ownOf(sizing) });
  const own = ownOf(sizing).filter((one) => one.key !== editing?.key);
  const keep = async (needs: readonly ProfileNeed[]): Promise<void> => {
    setProblem(undefined);
    try {
      const body = { needs: [...needs] };
      onKept(
        await send(
          'PUT',
          '/customers/{customer}/profiles',
          { customer: code },
          { body, key: newKey(), stored },
        ),
      );
      setEditing(undefined);
    } catch (error) {
      setProblem(whyOf(error));
    }
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
                  <Button kind="quiet" aria-label={`Change ${need.key}`} onPress={() => setEditing(need)}>
                    Change
                  </Button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {editing && (
        <NeedForm
          key={editing.key}
          need={editing}
          problem={problem}
          onBack={() => setEditing(undefined)}
          onUsual={() => void keep(own)}
          onKeep={(need) => keep([...own, need])}
        />
      )}
    </Panel>
  );
}

/** What is otherwise than usual: it says where its figures come from. */
const ownOf = ({ needs }: Sizing): ProfileNeed[] =>
  needs.filter(({ source }) => source !== '').sort((a, b) => a.key.localeCompare(b.key));

/** Figures as their fields have them. */
interface Typed {
  peoplePerVcpu: string;
  memoryGiB: string;
  diskOperations: string;
  graphicsGiB: string;
  source: string;
}

const figure = (typed: string): number | string | null => numberOrNull(typed.replace(',', '.'));

function NeedForm({
  need,
  problem,
  onBack,
  onUsual,
  onKeep,
}: {
  readonly need: ProfileNeed;
  readonly problem: string | undefined;
  readonly onBack: () => void;
  readonly onUsual: () => void;
  readonly onKeep: (need: ProfileNeed) => Promise<void>;
}) {
  const { register, handleSubmit, formState } = usePageForm<Typed, ProfileNeed>({
    defaultValues: {
      peoplePerVcpu: String(need.peoplePerVcpu),
      memoryGiB: String(need.memoryGiB),
      diskOperations: String(need.diskOperations),
      graphicsGiB: String(need.graphicsGiB),
      source: need.source,
    },
    resolver: checkedAs<Typed, ProfileNeed>(
      async () => (await import('../../contract/sizing')).profileNeedSchema,
      (typed) => ({
        key: need.key,
        peoplePerVcpu: figure(typed.peoplePerVcpu),
        memoryGiB: figure(typed.memoryGiB),
        diskOperations: figure(typed.diskOperations),
        graphicsGiB: figure(typed.graphicsGiB),
        source: typed.source,
      }),
    ),
  });
  const { errors } = formState;
  return (
    <form className={styles.pair} noValidate onSubmit={(event) => void handleSubmit(onKeep)(event)}>
      {FIGURES.map(({ key, title }) => (
        <TextField
          key={key}
          label={`${title}, ${need.key}`}
          inputMode="decimal"
          error={errors[key]?.message}
          {...register(key)}
        />
      ))}
      <TextField
        label="Where the figures come from"
        autoComplete="off"
        error={errors.source?.message}
        {...register('source')}
      />
      <div className={styles.actions}>
        <Button onPress={onBack}>Back</Button>
        {need.source !== '' && <Button onPress={onUsual}>As usual again</Button>}
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
  );
}
