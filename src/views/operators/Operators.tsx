import { UserRoundPlus } from 'lucide-react';
import { useState, type ComponentProps } from 'react';
import type { GroupRuleView, Operator, NoticeTarget } from '../../contract';
import { can, RIGHTS_OF } from '../../contract/roles';
import { get, newKey, send, whyOf } from '../../client/api';
import { count, writeDay, writeWhen } from '../../client/format';
import { Button } from '../../ui/Button';
import { Chip } from '../../ui/Chip';
import { CheckField } from '../../ui/Field';
import { Empty, Figure, Figures, Panel } from '../../ui/Panel';
import { Table, type Column } from '../../ui/Table';
import { Approval } from './Approval';
import { ChangeOperator } from './ChangeOperator';
import { Notices } from './Notices';
import { Groups } from './Groups';
import { Invite } from './Invite';
import styles from './Operators.module.css';

interface Props {
  readonly initial: readonly Operator[];
  readonly factorRequired: boolean;
  readonly customers: readonly { readonly code: string; readonly name: string }[];
  /** Who looks. */
  readonly me: string;
  /** Wall time. */
  readonly now: number;
  /** The identity service, and what its groups give; undefined: there is none. */
  readonly groups?: { readonly service: string; readonly rules: readonly GroupRuleView[] } | undefined;
  /** What needs another's word; undefined: it is not theirs to say. */
  /** Told to who reaches every customer. */
  readonly notices?: { readonly target: NoticeTarget | null } | undefined;
  readonly approval?: Omit<ComponentProps<typeof Approval>, 'leads'> | undefined;
}

const zone = Intl.DateTimeFormat().resolvedOptions().timeZone;

/** Who works here, whom does each reach, and what stands open for them? */
export function Operators({
  initial,
  factorRequired: firstRequired,
  customers,
  me,
  now,
  groups,
  approval,
  notices,
}: Props) {
  const [operators, setOperators] = useState(initial);
  const [required, setRequired] = useState(firstRequired);
  const [inviting, setInviting] = useState(false);
  const [changing, setChanging] = useState<Operator>();
  const [problem, setProblem] = useState<string>();
  const again = async (): Promise<void> => {
    const answer = await get('/operators', {});
    setOperators(answer.operators);
    setRequired(answer.factorRequired);
  };
  const act = async (work: () => Promise<unknown>): Promise<void> => {
    setProblem(undefined);
    try {
      await work();
    } catch (error) {
      setProblem(whyOf(error));
    }
    await again();
  };
  const leads = operators.filter((one) => can(RIGHTS_OF[one.role], 'decide')).length;
  const without = operators.filter((one) => !one.factor && !hasEnded(one, now)).length;
  return (
    <div className={styles.page}>
      <h1 className="sr">Operators</h1>
      <div className={styles.head}>
        <Figures>
          <Figure value={operators.filter((one) => !hasEnded(one, now)).length} label="work here" />
          <Figure value={leads} label={leads === 1 ? 'lead' : 'leads'} />
          <Figure value={without} label="without a second factor" />
          <Figure value={operators.reduce((sum, one) => sum + one.tokens, 0)} label="API tokens" />
        </Figures>
        <CheckField
          label="Everyone has to have a second factor"
          checked={required}
          onChange={(event) => {
            const factorRequired = event.target.checked;
            void act(() =>
              send('PUT', '/operators-settings', {}, { body: { factorRequired }, key: newKey() }),
            );
          }}
        />
      </div>
      {problem !== undefined && (
        <p role="alert" className={styles.problem}>
          {problem}
        </p>
      )}
      <Panel
        title={count(operators.length, 'operator', 'operators')}
        side={
          <Button icon={<UserRoundPlus size={15} aria-hidden="true" />} onPress={() => setInviting(true)}>
            Invite
          </Button>
        }
        flush
      >
        <Table
          label="operators"
          rows={operators}
          columns={columnsFor(now, me, setChanging)}
          idOf={(one) => one.id}
          empty={<Empty says="Nobody works here." />}
          actions={(chosen, clear) => (
            <>
              <Button
                kind="danger"
                onPress={() =>
                  void act(async () => {
                    for (const { id } of chosen)
                      await send('POST', '/operators/{operator}/ended', { operator: id }, { key: newKey() });
                  }).then(clear)
                }
              >
                End sign-ins and tokens of {chosen.length}
              </Button>
              <Button
                onPress={() =>
                  void act(async () => {
                    for (const { id } of chosen)
                      await send(
                        'DELETE',
                        '/operators/{operator}/second-factor',
                        { operator: id },
                        { key: newKey() },
                      );
                  }).then(clear)
                }
              >
                Take the second factor away
              </Button>
            </>
          )}
        />
      </Panel>
      {groups && <Groups initial={groups.rules} service={groups.service} customers={customers} />}
      {approval && <Approval {...approval} leads={leads} />}
      {notices && <Notices initial={notices.target} />}
      {inviting && (
        <Invite
          customers={customers}
          onClose={() => {
            setInviting(false);
            void again();
          }}
        />
      )}
      {changing && (
        <ChangeOperator
          operator={changing}
          customers={customers}
          onClose={() => setChanging(undefined)}
          onDone={() => {
            setChanging(undefined);
            void again();
          }}
        />
      )}
    </div>
  );
}

const hasEnded = ({ endsAt }: Operator, now: number): boolean => endsAt !== null && endsAt <= now;

const columnsFor = (
  now: number,
  me: string,
  change: (one: Operator) => void,
): readonly Column<Operator>[] => [
  {
    id: 'name',
    title: 'Name',
    value: (one) => `${one.name} ${one.mail}`,
    cell: (one) => (
      <span className={styles.name}>
        {one.name} <small>{one.mail}</small>
      </span>
    ),
  },
  { id: 'role', title: 'Role', value: (one) => one.role },
  {
    id: 'reach',
    title: 'Reaches',
    value: (one) => (one.customers === null ? 'every customer' : one.customers.join(' ')),
    cell: (one) =>
      one.customers === null
        ? 'every customer'
        : one.customers.length === 0
          ? 'nobody'
          : one.customers.length > 4
            ? count(one.customers.length, 'customer', 'customers')
            : one.customers.join(', '),
  },
  {
    id: 'factor',
    title: 'Second factor',
    value: (one) => (one.factor ? 'yes' : 'no'),
    cell: (one) => (one.factor ? <Chip tone="good">set up</Chip> : <Chip tone="care">none</Chip>),
  },
  {
    id: 'seen',
    title: 'Last seen',
    value: (one) => one.lastSeenAt ?? 0,
    cell: (one) =>
      one.invited ? 'invited' : one.lastSeenAt === null ? 'never' : writeWhen(one.lastSeenAt, zone),
    figure: true,
  },
  {
    id: 'open',
    title: 'Sign-ins, tokens',
    value: (one) => one.signIns + one.tokens,
    cell: (one) => `${one.signIns}, ${one.tokens}`,
    figure: true,
  },
  {
    id: 'ends',
    title: 'Until',
    value: (one) => one.endsAt ?? Infinity,
    cell: (one) =>
      one.endsAt === null ? (
        ''
      ) : hasEnded(one, now) ? (
        <Chip tone="quiet">ended {writeDay(one.endsAt, zone)}</Chip>
      ) : (
        writeDay(one.endsAt, zone)
      ),
    figure: true,
  },
  {
    id: 'change',
    title: 'Change',
    value: () => '',
    cell: (one) =>
      one.id === me ? (
        'you'
      ) : (
        <Button kind="quiet" aria-label={`Change ${one.name}`} onPress={() => change(one)}>
          Change
        </Button>
      ),
  },
];
