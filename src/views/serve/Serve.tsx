import type { Page, Session, SessionCount } from '../../contract';
import { useState } from 'react';
import { get } from '../../client/api';
import { writeWhen } from '../../client/format';
import { useList } from '../../client/list';
import { useLive } from '../../client/live';
import { Chip } from '../../ui/Chip';
import { Mark, type MarkLook } from '../../ui/Mark';
import { Empty, Figure, Figures, Panel } from '../../ui/Panel';
import { Table, type Column } from '../../ui/Table';
import { SessionActButtons, useSessionActs, type SessionActs } from '../shared/SessionActs';
import { SessionStrip } from './SessionStrip';
import styles from './Serve.module.css';

type Marks = Readonly<Record<string, MarkLook>>;

interface Props {
  readonly initial: Page<Session>;
  readonly counts: readonly SessionCount[];
  readonly marks: Marks;
  readonly mayChange: boolean;
}

/** Who is signed in where? */
export function Serve({ initial, counts: before, marks, mayChange }: Props) {
  const [customer, setCustomer] = useState<string>();
  const [state, setState] = useState<Session['state']>();
  const { value: counts } = useLive<readonly SessionCount[]>(
    { key: 'session counts', read: async () => (await get('/sessions/count', {})).customers },
    before,
    '/events',
    (change) => change.topic === 'environment',
  );
  const list = useList<Session>(
    customer === undefined ? '/sessions' : `/customers/${customer}/sessions`,
    initial,
    '/events',
    (change) => change.topic === 'environment',
    state === undefined ? {} : { state },
  );
  const acts = useSessionActs(mayChange);
  const total = (of: (one: SessionCount) => number): number => counts.reduce((sum, one) => sum + of(one), 0);
  return (
    <div className={styles.page}>
      <Figures>
        <Figure value={total((one) => one.active)} label="active" />
        <Figure value={total((one) => one.idle)} label="idle" />
        <Figure value={counts.length} label={counts.length === 1 ? 'customer' : 'customers'} />
      </Figures>
      <SessionStrip counts={counts} marks={marks} chosen={customer} onChoose={setCustomer} />
      {acts.programs}
      <Panel title={customer === undefined ? 'Signed in' : `Signed in for ${customer}`} flush>
        <Table
          // Until the chosen customer's list has come, of what is here only what is theirs.
          rows={list.entries.filter(
            (one) =>
              (customer === undefined || one.customer === customer) &&
              (state === undefined || one.state === state),
          )}
          tools={<States state={state} onState={setState} />}
          columns={columnsWith(marks, acts.show)}
          idOf={(row) => row.id}
          label="sessions"
          empty={<Empty says="Nobody is signed in at the moment." />}
          height={520}
          find={{ text: list.find, onText: list.setFind }}
          more={list.whole ? undefined : list.more}
          {...(acts.begin
            ? {
                actions: actionsWith(acts.begin),
              }
            : {})}
        />
      </Panel>
      {acts.dialog}
    </div>
  );
}

/** Which of them are shown: all, or those that are so. */
const States = ({
  state,
  onState,
}: {
  readonly state: Session['state'] | undefined;
  readonly onState: (state: Session['state'] | undefined) => void;
}) => (
  <span className={styles.states} role="group" aria-label="Which sessions">
    {([undefined, 'active', 'idle'] as const).map((one) => (
      <button key={one ?? 'all'} type="button" aria-pressed={state === one} onClick={() => onState(one)}>
        {one ?? 'all'}
      </button>
    ))}
  </span>
);

const actionsWith =
  (begin: NonNullable<SessionActs['begin']>) => (selected: readonly Session[], clear: () => void) => (
    <SessionActButtons sessions={selected} begin={begin} done={clear} />
  );

const columnsWith = (marks: Marks, onShow: (session: Session) => void): readonly Column<Session>[] => [
  {
    id: 'customer',
    title: 'Customer',
    value: (row) => row.customer,
    cell: (row) => {
      const mark = marks[row.customer];
      return mark ? <Mark mark={mark} size={26} /> : row.customer;
    },
    width: '90px',
  },
  {
    id: 'person',
    title: 'Person',
    value: (row) => row.person ?? row.account,
    cell: (row) => (
      <button type="button" className={styles.person} onClick={() => onShow(row)}>
        {row.person ?? row.account}
      </button>
    ),
  },
  {
    id: 'account',
    title: 'Account',
    value: (row) => row.account,
    cell: (row) => <span className="mono">{row.account}</span>,
  },
  {
    id: 'state',
    title: 'Session',
    value: (row) => row.state,
    cell: (row) => (
      <>
        <Chip tone={row.state === 'active' ? 'good' : 'quiet'}>{row.state}</Chip>
        {row.state === 'idle' && (
          <small className={styles.idleSince}>since {writeWhen(row.stateSince, 'UTC')}</small>
        )}
      </>
    ),
  },
  {
    id: 'host',
    title: 'Host',
    value: (row) => row.host,
    cell: (row) =>
      row.environmentId === null ? (
        row.host
      ) : (
        <a className="mono" href={`/customers/${row.customer}/environments/${row.environmentId}`}>
          {row.host}
        </a>
      ),
  },
  { id: 'environment', title: 'Environment', value: (row) => row.environment ?? '' },
  {
    id: 'since',
    title: 'Since (UTC)',
    value: (row) => row.since,
    cell: (row) => writeWhen(row.since, 'UTC'),
    figure: true,
  },
];
