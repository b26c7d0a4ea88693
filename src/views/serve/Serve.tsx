import type { Page, Session, SessionCount, SessionProgram } from '../../contract';
import { useState } from 'react';
import { LogOut, MessageSquare, Unplug } from 'lucide-react';
import type { SessionActKey } from '../../core/session-acts';
import { get } from '../../client/api';
import { writeWhen } from '../../client/format';
import { useList } from '../../client/list';
import { useLive } from '../../client/live';
import { Button } from '../../ui/Button';
import { Chip } from '../../ui/Chip';
import { Mark, type MarkLook } from '../../ui/Mark';
import { Empty, Figure, Figures, Panel } from '../../ui/Panel';
import { Table, type Column } from '../../ui/Table';
import { ActDialog } from '../shared/ActDialog';
import { Programs } from '../shared/Programs';
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
  );
  const [shown, setShown] = useState<Session>();
  const [round, setRound] = useState(0);
  const [acting, setActing] = useState<Acting>();
  const total = (of: (one: SessionCount) => number): number => counts.reduce((sum, one) => sum + of(one), 0);
  return (
    <div className={styles.page}>
      <Figures>
        <Figure value={total((one) => one.active)} label="active" />
        <Figure value={total((one) => one.idle)} label="idle" />
        <Figure value={counts.length} label={counts.length === 1 ? 'customer' : 'customers'} />
      </Figures>
      <SessionStrip counts={counts} marks={marks} chosen={customer} onChoose={setCustomer} />
      {shown && (
        <Programs
          key={`${shown.provider} ${shown.id}`}
          session={shown}
          round={round}
          onClose={() => setShown(undefined)}
          onEnd={
            mayChange
              ? (program) =>
                  setActing({ act: 'end-program', sessions: [shown], program, clear: () => undefined })
              : undefined
          }
        />
      )}
      <Panel title={customer === undefined ? 'Signed in' : `Signed in for ${customer}`} flush>
        <Table
          // Until the chosen customer's list has come, of what is here only what is theirs.
          rows={
            customer === undefined ? list.entries : list.entries.filter((one) => one.customer === customer)
          }
          columns={columnsWith(marks, setShown)}
          idOf={(row) => row.id}
          label="sessions"
          empty={<Empty says="Nobody is signed in at the moment." />}
          height={520}
          find={{ text: list.find, onText: list.setFind }}
          more={list.whole ? undefined : list.more}
          {...(mayChange
            ? {
                actions: (selected: readonly Session[], clear: () => void) => (
                  <>
                    {ACTS.map(({ act, verb, icon: Icon }) => (
                      <Button
                        key={act}
                        icon={<Icon size={16} aria-hidden="true" />}
                        onPress={() => setActing({ act, sessions: selected, clear })}
                      >
                        {verb}
                      </Button>
                    ))}
                  </>
                ),
              }
            : {})}
        />
      </Panel>
      {acting && (
        <ActDialog
          act={acting.act}
          sessions={acting.sessions}
          program={acting.program}
          onClose={() => setActing(undefined)}
          onDone={() => {
            acting.clear();
            setActing(undefined);
            setRound((before) => before + 1);
          }}
        />
      )}
    </div>
  );
}

interface Acting {
  readonly act: SessionActKey;
  readonly sessions: readonly Session[];
  readonly program?: SessionProgram;
  readonly clear: () => void;
}

const ACTS = [
  { act: 'message', verb: 'Message', icon: MessageSquare },
  { act: 'disconnect', verb: 'Disconnect', icon: Unplug },
  { act: 'sign-out', verb: 'Sign them out', icon: LogOut },
] as const;

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
    cell: (row) => <Chip tone={row.state === 'active' ? 'good' : 'quiet'}>{row.state}</Chip>,
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
