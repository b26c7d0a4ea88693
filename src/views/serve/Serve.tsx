import type { Page, Session, SessionCount } from '../../contract';
import { useState } from 'react';
import { X } from 'lucide-react';
import { get } from '../../client/api';
import { writeWhen } from '../../client/format';
import { useList } from '../../client/list';
import { useLive } from '../../client/live';
import { Button } from '../../ui/Button';
import { Chip } from '../../ui/Chip';
import { Mark, type MarkLook } from '../../ui/Mark';
import { Empty, Figure, Figures, Panel } from '../../ui/Panel';
import { Table, type Column } from '../../ui/Table';
import { PersonButton, SessionActButtons, useSessionActs, type SessionActs } from '../shared/SessionActs';
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
  const [which, setWhich] = useState<Which>('all');
  const [place, setPlace] = useState<Place>();
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
    { ...FILTERS[which], ...(place ? { environment: place.id } : {}) },
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
      <SessionStrip
        counts={counts}
        marks={marks}
        chosen={customer}
        onChoose={(code) => {
          setCustomer(code);
          setPlace(undefined);
        }}
      />
      {acts.programs}
      <Panel title={customer === undefined ? 'Signed in' : `Signed in for ${customer}`} flush>
        <Table
          // Until the chosen customer's list has come, of what is here only what is theirs.
          rows={list.entries.filter(
            (one) =>
              (customer === undefined || one.customer === customer) &&
              (which === 'all' || one.state === (which === 'active' ? 'active' : 'idle')) &&
              (!place || one.environmentId === place.id),
          )}
          tools={<Tools which={which} onWhich={setWhich} place={place} onPlace={setPlace} />}
          columns={columnsWith(marks, acts.show, setPlace)}
          idOf={(row) => row.id}
          label="sessions"
          empty={<Empty says="Nobody is signed in at the moment." />}
          height={520}
          find={{ text: list.find, onText: list.setFind }}
          more={list.whole ? undefined : list.more}
          {...(acts.begin
            ? {
                actions: actionsWith(acts.begin, acts.move),
              }
            : {})}
        />
      </Panel>
      {acts.dialog}
    </div>
  );
}

/** Which sessions are shown, by what is asked of the list. */
const FILTERS = {
  all: {},
  active: { state: 'active' },
  idle: { state: 'idle' },
  'idle for an hour': { idleFor: '60' },
} as const satisfies Readonly<Record<string, Readonly<Record<string, string>>>>;
type Which = keyof typeof FILTERS;

interface Place {
  readonly id: string;
  readonly name: string;
}

/** Which of them are shown: all, or those that are so; of one environment, or of all. */
const Tools = ({
  which,
  onWhich,
  place,
  onPlace,
}: {
  readonly which: Which;
  readonly onWhich: (which: Which) => void;
  readonly place: Place | undefined;
  readonly onPlace: (place: Place | undefined) => void;
}) => (
  <>
    {place && (
      <Button kind="quiet" icon={<X size={15} aria-hidden="true" />} onPress={() => onPlace(undefined)}>
        {place.name}
      </Button>
    )}
    <span className={styles.states} role="group" aria-label="Which sessions">
      {(Object.keys(FILTERS) as Which[]).map((one) => (
        <button key={one} type="button" aria-pressed={which === one} onClick={() => onWhich(one)}>
          {one}
        </button>
      ))}
    </span>
  </>
);

const actionsWith =
  (begin: NonNullable<SessionActs['begin']>, move: SessionActs['move']) =>
  (selected: readonly Session[], clear: () => void) => (
    <SessionActButtons sessions={selected} begin={begin} move={move} done={clear} />
  );

const columnsWith = (
  marks: Marks,
  onShow: SessionActs['show'],
  onPlace: (place: Place) => void,
): readonly Column<Session>[] => [
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
    cell: (row) => <PersonButton className={styles.person} session={row} onShow={onShow} />,
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
        <a
          className="mono"
          href={
            row.hostId === null
              ? `/customers/${row.customer}/environments/${row.environmentId}`
              : `/customers/${row.customer}/hosts/${row.hostId}`
          }
        >
          {row.host}
        </a>
      ),
  },
  {
    id: 'environment',
    title: 'Environment',
    value: (row) => row.environment ?? '',
    cell: ({ environmentId, environment, customer }) =>
      environmentId === null ? null : (
        <button
          type="button"
          className={styles.place}
          aria-label={`Only those of ${environment ?? ''} of ${customer}`}
          onClick={() => onPlace({ id: environmentId, name: `${environment ?? ''} of ${customer}` })}
        >
          {environment}
        </button>
      ),
  },
  {
    id: 'since',
    title: 'Since (UTC)',
    value: (row) => row.since,
    cell: (row) => writeWhen(row.since, 'UTC'),
    figure: true,
  },
];
