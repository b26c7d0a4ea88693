import { KeyRound, Trash2 } from 'lucide-react';
import { useState } from 'react';
import type { Factor, NewToken, Right, Token } from '../../contract';
import { can } from '../../contract/roles';
import { get, newKey, send, whyOf } from '../../client/api';
import { checkedBy, showRefusal, usePageForm } from '../../client/form';
import { count, writeDay, writeWhen } from '../../client/format';
import { Button } from '../../ui/Button';
import { SelectField, TextField } from '../../ui/Field';
import { Empty, Figure, Figures, Panel } from '../../ui/Panel';
import { Table, type Column } from '../../ui/Table';
import { ChangePassword } from './ChangePassword';
import { SecondFactor } from './SecondFactor';
import styles from './You.module.css';

interface Props {
  readonly name: string;
  readonly role: string;
  readonly rights: readonly Right[];
  /** How many customers are reached; null: every one. */
  readonly reach: number | null;
  readonly tokens: readonly Token[];
  readonly factor: Factor;
  /** Wall time. */
  readonly now: number;
}

const zone = Intl.DateTimeFormat().resolvedOptions().timeZone;

/** Who am I here, and what speaks for me? */
export function You({ name, role, rights, reach, tokens: first, factor, now }: Props) {
  const [tokens, setTokens] = useState(first);
  const [made, setMade] = useState<string>();
  const [problem, setProblem] = useState<string>();
  const again = async (): Promise<void> => {
    const answer = await get('/tokens', {});
    setTokens(answer.tokens);
  };
  const end = async (chosen: readonly Token[]): Promise<void> => {
    setProblem(undefined);
    try {
      for (const { id } of chosen) await send('DELETE', '/tokens/{token}', { token: id }, { key: newKey() });
    } catch (error) {
      setProblem(whyOf(error));
    }
    await again();
  };
  return (
    <div className={styles.page}>
      <h1>{name}</h1>
      <Figures>
        <Figure value={role} label="what you are here" />
        <Figure
          value={reach === null ? 'every customer' : count(reach, 'customer', 'customers')}
          label="whom you reach"
        />
        <Figure
          value={tokens.length}
          label={can(rights, 'decide') ? 'API tokens of operators you manage' : 'your API tokens'}
        />
      </Figures>
      <div className={styles.sides}>
        <div className={styles.page}>
          <Panel title="API tokens" flush>
            {problem !== undefined && (
              <p role="alert" className={styles.problem}>
                {problem}
              </p>
            )}
            <Table
              label="tokens"
              rows={tokens}
              columns={columnsFor(can(rights, 'decide'), now)}
              idOf={(token) => token.id}
              empty={<Empty says="No token speaks for you." />}
              actions={(chosen, clear) => (
                <Button
                  kind="danger"
                  icon={<Trash2 size={15} aria-hidden="true" />}
                  onPress={() => void end(chosen).then(clear)}
                >
                  End {count(chosen.length, 'token', 'tokens')}
                </Button>
              )}
            />
          </Panel>
          <ChangePassword />
        </div>
        <div className={styles.page}>
          <SecondFactor initial={factor} />
          <MakeToken
            rights={rights}
            onMade={(token) => {
              setMade(token);
              void again();
            }}
            made={made}
          />
        </div>
      </div>
    </div>
  );
}

const columnsFor = (seesOthers: boolean, now: number): readonly Column<Token>[] => [
  { id: 'name', title: 'Name', value: (token) => token.name },
  { id: 'operator', title: 'Whose', value: (token) => token.operator, hidden: !seesOthers },
  {
    id: 'rights',
    title: 'Rights',
    value: ({ rights }) => (rights === null ? 'all' : rights.length === 0 ? 'see' : rights.join(', ')),
  },
  {
    id: 'used',
    title: 'Last used',
    value: (token) => token.usedAt ?? 0,
    cell: (token) => (token.usedAt === null ? 'never' : writeWhen(token.usedAt, zone)),
    figure: true,
  },
  {
    id: 'made',
    title: 'Made',
    value: (token) => token.madeAt,
    cell: (token) => writeDay(token.madeAt, zone),
    figure: true,
  },
  {
    id: 'ends',
    title: 'Ends',
    value: (token) => token.endsAt,
    cell: (token) => `in ${count(Math.max(1, Math.round((token.endsAt - now) / 86_400_000)), 'day', 'days')}`,
    figure: true,
  },
];

/** What a token is usually made for, beside everything. */
const CHOICES: readonly {
  readonly key: string;
  readonly label: string;
  readonly rights: readonly Right[];
}[] = [
  { key: 'see', label: 'Read only', rights: ['see'] },
  { key: 'run', label: 'Sessions and hosts', rights: ['see', 'run'] },
  { key: 'build', label: 'Build and change', rights: ['see', 'run', 'build'] },
  { key: 'book', label: 'Prices', rights: ['see', 'book'] },
];

/** A token is shown once: whoever loses it makes another. */
function MakeToken({
  rights,
  made,
  onMade,
}: {
  readonly rights: readonly Right[];
  readonly made: string | undefined;
  readonly onMade: (token: string) => void;
}) {
  const { register, handleSubmit, setError, reset, formState } = usePageForm<NewToken>({
    resolver: checkedBy(async () => (await import('../../contract/sign-in')).newTokenSchema),
  });
  const [choice, setChoice] = useState('all');
  const [problem, setProblem] = useState<string>();
  const choices = CHOICES.filter((one) => one.rights.every((right) => can(rights, right)));
  const submit = handleSubmit(async (entered) => {
    const body = { ...entered, rights: choices.find(({ key }) => key === choice)?.rights ?? null };
    setProblem(undefined);
    try {
      const { token } = await send('POST', '/tokens', {}, { body, key: newKey() });
      reset({ name: '' });
      onMade(token);
    } catch (error) {
      setProblem(showRefusal(error, ['name', 'days'], setError));
    }
  });
  return (
    <Panel title="Make a token">
      <form className={styles.form} onSubmit={(event) => void submit(event)} noValidate>
        <TextField
          label="What it is for"
          placeholder="like nightly report"
          autoComplete="off"
          error={formState.errors.name?.message}
          {...register('name')}
        />
        <TextField
          label="Days until it ends"
          type="number"
          min={1}
          max={365}
          defaultValue={90}
          error={formState.errors.days?.message}
          {...register('days')}
        />
        <SelectField label="Rights" value={choice} onChange={(event) => setChoice(event.target.value)}>
          <option value="all">All your rights</option>
          {choices.map(({ key, label }) => (
            <option key={key} value={key}>
              {label}
            </option>
          ))}
        </SelectField>
        {problem !== undefined && (
          <p role="alert" className={styles.problem}>
            {problem}
          </p>
        )}
        <Button
          type="submit"
          kind="main"
          icon={<KeyRound size={15} aria-hidden="true" />}
          isDisabled={formState.isSubmitting}
        >
          Make
        </Button>
        <p className={styles.help}>It reaches what you reach, as long as you do.</p>
      </form>
      {made !== undefined && (
        <div role="status" className={styles.made}>
          <p>Copy it now: it is shown this once.</p>
          <code>{made}</code>
        </div>
      )}
    </Panel>
  );
}
